import { jobDamaged } from '../errors/job-error.js';

/** What a job file keeps as JSON. @throws JobError `job-damaged` where it is none any more */
export function storedJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    throw jobDamaged('The job file is damaged: something it keeps cannot be read.');
  }
}
