import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { planTransform } from './plan-transform.js';

interface Entry {
  readonly proj4: string;
  /** North, west, south, east. */
  readonly bbox: readonly [number, number, number, number];
}
const index = JSON.parse(readFileSync(createRequire(import.meta.url).resolve('epsg-index/all.json'), 'utf8')) as Record<
  string,
  Entry
>;
const definition = (epsg: number): string => index[epsg]!.proj4;
/** The geographic system on the same datum and ellipsoid, so that the projection alone is checked. */
const geographicOf = (epsg: number): string =>
  `+proj=longlat ${definition(epsg)
    .split(' ')
    .filter((part) => /^\+(ellps|datum|a|b|rf|towgs84|pm)=/.test(part))
    .join(' ')} +no_defs`;

function moved(from: string, to: string, e: number, n: number): [number, number] {
  const [easting, northing] = [Float64Array.of(e), Float64Array.of(n)];
  planTransform(from, to)(easting, northing);
  return [easting[0]!, northing[0]!];
}

describe('worked examples of EPSG Guidance Note 7-2 (to 1 cm)', () => {
  test.each([
    ['Transverse Mercator, 27700', 27700, 0.5, 50.5, 577274.98, 69740.49],
    ['Lambert conic conformal with two parallels, US survey feet, 32040', 32040, -96, 28.5, 2963503.91, 254759.8],
    [
      'Lambert conic conformal with one parallel, 24200',
      24200,
      -(76 + 56 / 60 + 37.26 / 3600),
      17 + 55 / 60 + 55.8 / 3600,
      255966.58,
      142493.51,
    ],
  ])('%s', (_, epsg, longitude, latitude, easting, northing) => {
    const [e, n] = moved(geographicOf(epsg), definition(epsg).replace(/\+nadgrids=\S+/, ''), longitude, latitude);
    expect(Math.abs(e - easting)).toBeLessThan(0.011);
    expect(Math.abs(n - northing)).toBeLessThan(0.011);
  });
});

describe('cs2cs, on a seeded sample over a dozen systems (to 1 cm)', () => {
  // Metres and feet, transverse Mercator, Lambert, oblique and polar stereographic, Mercator, Albers, and a far datum shift.
  for (const epsg of [5347, 5343, 2277, 2227, 32720, 25832, 2154, 27700, 28992, 3031, 3005, 31370]) {
    test(`EPSG:${epsg}`, () => {
      const random = seededRandom(epsg);
      const [north, west, south, east] = index[epsg]!.bbox;
      const sample = Array.from(
        { length: 40 },
        () =>
          [west + (0.1 + 0.8 * random()) * (east - west), south + (0.1 + 0.8 * random()) * (north - south)] as const,
      );
      const input = sample.map(([lon, lat]) => `${lon} ${lat}`).join('\n');
      const output = execFileSync(
        'cs2cs',
        [
          '-f',
          '%.6f',
          ...geographicOf(epsg).split(' '),
          '+to',
          ...definition(epsg)
            .split(' ')
            .filter((p) => p !== '+type=crs' && !p.startsWith('+nadgrids')),
        ],
        { input },
      ).toString();
      const wanted = output
        .trim()
        .split('\n')
        .map((line) => line.trim().split(/\s+/).map(Number));
      const transform = planTransform(geographicOf(epsg), definition(epsg).replace(/\+nadgrids=\S+/, ''));
      const [e, n] = [Float64Array.from(sample, (p) => p[0]), Float64Array.from(sample, (p) => p[1])];
      transform(e, n);
      const worst = Math.max(...wanted.map(([we, wn], i) => Math.hypot(e[i]! - we!, n[i]! - wn!)));
      // The two agree to a tenth of a millimetre but for the oblique stereographic of 28992, 5 mm.
      expect(worst).toBeLessThan(0.01);
    });
  }
});

test('there and back is where one began, to a tenth of a millimetre', () => {
  const [be, bn] = moved(
    definition(5347),
    definition(32720),
    ...moved(definition(32720), definition(5347), 350_000, 6_150_000),
  );
  expect(Math.hypot(be - 350_000, bn - 6_150_000)).toBeLessThan(1e-4);
});

test('datums tied by a grid that is not there are refused rather than left a hundred metres off', () => {
  expect(() => planTransform(definition(27700), definition(32630))).toThrow(
    expect.objectContaining({ code: 'grid-missing' }) as Error,
  );
});

test('a string that is no system, and a point that has no place, are typed errors', () => {
  expect(() => planTransform('+proj=nonsense', definition(5347))).toThrow(
    expect.objectContaining({ code: 'crs-unknown' }) as Error,
  );
  expect(() => moved(definition(5347), definition(2277), NaN, 0)).toThrow(
    expect.objectContaining({ code: 'outside-crs' }) as Error,
  );
});
