// @vitest-environment jsdom
import { ApplicationRef } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Product } from '@pampero/contract';
import { packArrays } from '@pampero/core/binary';
import { packLines, shapeOf, type FeatureLine } from '@pampero/core/lines';
import { beforeEach, describe, expect, test } from 'vitest';
import { storesOver, surface, workbench, type PretendServer } from '../stores.fixture';
import { JobStore } from './job-store';
import { LayerStore, layerOf } from './layer-store';
import { LineStore } from './line-store';

const line = (key: number, ...places: [number, number, number][]): FeatureLine => ({
  ...shapeOf(places.map(([e, n, z]) => ({ e, n, z, source: 2 })), false), // prettier-ignore
  key,
  entry: 1,
});
const ofCode = (id: number, seriesId: number, code = 'BREAK'): Product =>
  surface(id, { kind: 'lines', seriesId, name: code, facts: { code, role: 'breakline', lines: 2 } } as never);
const bytes = (packed: Uint8Array<ArrayBuffer>): ArrayBuffer => packed.buffer;

let server: PretendServer;
let lines: LineStore;
let job: JobStore;
const have = async (products: Product[]): Promise<void> => {
  job.workbench.set(workbench({ products }));
  for (let k = 0; k < 5; k++) {
    await TestBed.inject(ApplicationRef).whenStable();
    await new Promise((resolve) => setTimeout(resolve, 1));
  }
};

beforeEach(() => {
  ({ server } = storesOver(
    (id, { query }) => {
      if (id !== 'showProduct') return undefined;
      if (query?.['since'] === undefined) return bytes(packLines([line(1, [0, 0, 1], [9, 0, 1]), line(2, [0, 5, 1], [9, 5, 1])])); // prettier-ignore
      return bytes(packArrays({ gone: Uint32Array.of(1), came: packLines([line(3, [0, 9, 1], [9, 9, 1])]) }, {}));
    },
    [JobStore, LayerStore, LineStore],
  ));
  job = TestBed.inject(JobStore);
  lines = TestBed.inject(LineStore);
});

describe('the lines of the job on the page', () => {
  test('are read whole once, then only what came and went', async () => {
    await have([ofCode(5, 5)]);
    expect(lines.shownLines().map(({ key, code }) => [key, code])).toEqual([[1, 'BREAK'], [2, 'BREAK']]); // prettier-ignore
    await have([ofCode(7, 5)]);
    expect(server.made('showProduct').at(-1)!.given.query).toEqual({ since: 5 });
    expect(lines.shownLines().map(({ key }) => key)).toEqual([2, 3]);
  });

  test('an undone version is older than what is known, and read whole', async () => {
    await have([ofCode(7, 5)]);
    await have([ofCode(5, 5)]);
    expect(server.made('showProduct').at(-1)!.given.query).toBeUndefined();
  });

  test('an eye that was closed stays closed through an edit; hidden lines draw no pen', async () => {
    await have([ofCode(5, 5)]);
    TestBed.inject(LayerStore).setShown(layerOf(ofCode(5, 5)), false);
    await have([ofCode(7, 5)]);
    expect(lines.shownLines()).toEqual([]);
    expect(lines.index().snap(0, 0, 1, new Set(['corner']))).toBeUndefined();
    lines.show('BREAK');
    expect(lines.index().snap(0, 5, 1, new Set(['corner']))?.corner).toBe(0);
  });

  test('what is stored goes out with where each elevation comes from, none as null', () => {
    const shape = shapeOf([{ e: 1, n: 2, z: 3, source: 2 }, { e: 4, n: 5, z: NaN, source: 4 }], false); // prettier-ignore
    lines.put([{ code: 'DITCH', shape, key: 9 }], [4], 'Drawn');
    expect(server.made('startOperation').at(-1)!.given.body).toEqual({
      put: [{ code: 'DITCH', key: 9, isClosed: false, easting: [1, 4], northing: [2, 5], elevation: [3, null], source: ['point', 'none'] }], // prettier-ignore
      remove: [4],
      what: 'Drawn',
    });
  });
});
