import { setSystem, type SetSystemParameters } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { placeFinding } from '../../crs/area.js';
import { crsByCode, crsOfEntry } from '../../crs/crs-catalogue.js';
import { planeSystemOf } from '../../crs/plane-system.js';
import { PamperoError } from '@pampero/core/task';
import { JobError } from '../../errors/job-error.js';
import { JOB_KEY, writtenFacts } from '../../jobs/job-facts.js';
import type { RunWork } from '../../runs/run-service.js';
import { boundsAround } from '@pampero/core/cloud';
import { listReadyCloudFacts } from '../../store/cloud-repository.js';
import { replaceSetting } from '../../store/history-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** @throws JobError, PamperoError for a code that is none, in another unit, or for other land; and where the job has a system */
function work({ epsg }: SetSystemParameters, { job }: Surroundings): RunWork {
  if (job.crs.epsg !== undefined || job.crs.definition !== undefined)
    throw new PamperoError('has-system', {
      what: `This job is in ${job.crs.epsg === undefined ? 'a system of its own' : `EPSG:${job.crs.epsg}, ${job.crs.name ?? ''}`}.`,
      fix: 'Make a job in the other system and import the files there: their points are then moved.',
    });
  const entry = crsByCode(epsg);
  if (entry.unit !== job.unit)
    throw new JobError('bad-request', {
      what: `EPSG:${epsg}, ${entry.name}, is in ${lengthUnits[entry.unit].name}, this job in ${lengthUnits[job.unit].name}.`,
      fix: 'Make a job in that system and import the files there.',
    });
  const crs = crsOfEntry(entry);
  return async ({ job: file }) => {
    const clouds = await listReadyCloudFacts(file.read);
    const bounds = clouds.length > 0 ? boundsAround(clouds.map(({ facts }) => facts.bounds)) : undefined;
    const finding = placeFinding(bounds, planeSystemOf(crs));
    if (finding !== undefined)
      throw new PamperoError('outside-area', {
        what: `The clouds do not lie in the area of EPSG:${epsg}, ${entry.name}. ${finding}`,
        fix: 'Look up the system that the coordinates are in.',
      });
    return {
      outcome: `The job is in EPSG:${epsg}, ${entry.name}`,
      figures: [{ label: 'Coordinate system', value: `EPSG:${epsg}, ${entry.name}`, quantity: 'text' }],
      store: async (models) => ({ effects: [await replaceSetting(models, JOB_KEY, writtenFacts({ ...job, crs }))] }),
    };
  };
}

export const operation = serverOperation(setSystem, work);
