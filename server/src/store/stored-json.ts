import { JobError } from '../errors/job-error.js';

/** What a job file keeps as JSON. @throws JobError `job-damaged` where it is none any more */
export function storedJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    throw new JobError('job-damaged', {
      what: 'The job file is damaged: something it keeps cannot be read.',
      fix: 'Restore the job from a copy that was downloaded before.',
    });
  }
}
