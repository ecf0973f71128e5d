import { classChoice, clouds } from '../../parameters/index.js';

/** What every search for points that are not real asks. */
export const cleanedClouds = clouds('The clouds to clean.');
export const classFor = (code: number) =>
  classChoice(code, { label: 'Set class to', help: 'Points found get this class. Nothing is deleted.' });
