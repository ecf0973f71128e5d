import { classChoice, clouds, figure } from '../../parameters/index.js';

/** What every search for points that are not real asks. */
export const cleanedClouds = clouds('The clouds to clean.');
export const classFor = (code: number) =>
  classChoice(code, { label: 'Set class to', help: 'Points found get this class. Nothing is deleted.' });

/** Noise is rare: a search that finds more than a few per cent has most likely taken something else for it. */
export const stopAbove = figure({
  default: 3,
  min: 0,
  max: 100,
  label: 'Stop above, %',
  help: 'Changes nothing and says so if more than this share of the points is found.',
  isAdvanced: true,
});
