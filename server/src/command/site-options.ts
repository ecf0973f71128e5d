import { join } from 'node:path';
import { Misuse } from './exit-codes.js';
import type { PlaceOptions } from './sheet-options.js';

/** What `pampero site` is told. */
export interface SiteOptions extends PlaceOptions {
  readonly out: string;
  readonly jobs?: string;
  readonly silent?: string;
  readonly in: readonly string[];
  readonly side: string;
  readonly margin?: string;
  readonly crs?: string;
  readonly atOnce?: string;
  readonly least?: string;
  readonly without: readonly string[];
  readonly accept: readonly string[];
  readonly json?: boolean;
}

/** Points. */
const USUAL_LEAST = 1000;

export const leastOf = ({ least }: SiteOptions): number =>
  least === undefined ? USUAL_LEAST : wholeOf(least, '--least');

export const edgesIn = (folder: string): string => join(folder, 'edges');
export const piecesIn = (folder: string): string => join(folder, 'pieces');

export function lengthOf(text: string, option: string, least = 1): number {
  const value = Number(text);
  if (!Number.isFinite(value) || value < least)
    throw new Misuse(`${option} takes a length of ${least} or more in the unit of the files, and got “${text}”.`);
  return value;
}

export function wholeOf(text: string, option: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 1) throw new Misuse(`${option} takes a whole number, and got “${text}”.`);
  return value;
}
