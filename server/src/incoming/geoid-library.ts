import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Geoid } from '@pampero/contract';
import { readGtx } from '@pampero/core/geodesy';
import { notFound } from '../errors/job-error.js';

const ENDING = '.gtx';

/** Geoid grids in the data folder: GTX files that the surveyor puts there. */
export class GeoidLibrary {
  constructor(readonly folder: string) {}

  async list(): Promise<Geoid[]> {
    const names = (await readdir(this.folder).catch(() => [])).filter((name) => name.toLowerCase().endsWith(ENDING));
    const grids = await Promise.all(
      names.sort().map(async (name) => {
        try {
          const grid = readGtx(await readFile(join(this.folder, name)), name);
          const north = grid.south + (grid.rows - 1) * grid.latitudeStep;
          const east = grid.west + (grid.columns - 1) * grid.longitudeStep;
          return { name, area: [grid.south, grid.west, north, east] as [number, number, number, number] };
        } catch {
          return undefined; // a stray file must not hide the others
        }
      }),
    );
    return grids.filter((grid) => grid !== undefined);
  }

  /** @throws JobError where there is no such grid */
  async pathOf(name: string): Promise<string> {
    if (!(await this.list()).some((grid) => grid.name === name)) throw notFound('geoid grid', name);
    return join(this.folder, name);
  }
}
