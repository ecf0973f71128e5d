import { execFileSync } from 'node:child_process';
import { describe, expect, test } from 'vitest';
import { checkDefinition, withSevenParameters, type SevenParameters } from './own-definition.js';
import { checkPlace } from './place-check.js';
import { planTransform } from './plan-transform.js';

const LOCAL = '+proj=tmerc +lat_0=-90 +lon_0=-60 +k=1 +x_0=5500000 +y_0=0 +ellps=intl +units=m +no_defs';
const JOB = '+proj=tmerc +lat_0=-90 +lon_0=-60 +k=1 +x_0=5500000 +y_0=0 +ellps=WGS84 +towgs84=0,0,0 +units=m +no_defs';
/** In the size and signs of published shifts; made up. */
const SHIFT: SevenParameters = [-148.3, 136.1, 90.7, 0.554, -1.231, 0.327, -2.19];

describe('a definition of one’s own', () => {
  test('its unit is read', () => {
    expect(checkDefinition(LOCAL).unit).toBe('metre');
    expect(checkDefinition(LOCAL.replace('units=m', 'units=us-ft')).unit).toBe('us-survey-foot');
    expect(checkDefinition(LOCAL.replace('+units=m', '+to_meter=0.3048')).unit).toBe('international-foot');
  });

  test.each([
    ['hello', /no \+proj/],
    ['+proj=longlat +ellps=GRS80', /not a projection onto a plane/],
    ['+proj=tmerc +nadgrids=alaska', /Grids of shifts/],
    ['+proj=tmerc +units=fathom', /none of metre/],
    ['+proj=flatearth +ellps=GRS80', /No projection can be made/],
  ])('"%s" is refused with a reason', (definition, reason) => {
    expect(() => checkDefinition(definition)).toThrow(reason);
  });

  test('seven parameters take the place of the datum it names', () => {
    expect(withSevenParameters('+proj=tmerc +lat_0=0 +datum=NAD27 +units=m', SHIFT)).toBe(
      `+proj=tmerc +lat_0=0 +ellps=clrk66 +units=m +towgs84=${SHIFT.join(',')}`,
    );
  });

  test('a seven-parameter shift agrees with cs2cs to a millimetre', () => {
    const shifted = withSevenParameters(LOCAL, SHIFT);
    const places = Array.from({ length: 30 }, (_, i) => [5_480_000 + i * 1700, 6_100_000 + i * 2300] as const);
    const output = execFileSync('cs2cs', ['-f', '%.6f', ...shifted.split(' '), '+to', ...JOB.split(' ')], {
      input: places.map((p) => p.join(' ')).join('\n'),
    }).toString();
    const [e, n] = [Float64Array.from(places, (p) => p[0]), Float64Array.from(places, (p) => p[1])];
    planTransform(shifted, JOB)(e, n);
    output
      .trim()
      .split('\n')
      .forEach((line, i) => {
        const [we, wn] = line.trim().split(/\s+/).map(Number);
        expect(Math.hypot(e[i]! - we!, n[i]! - wn!)).toBeLessThan(0.001);
      });
    expect(Math.hypot(e[0]! - places[0]![0], n[0]! - places[0]![1])).toBeGreaterThan(50);
  });
});

describe('numbers that look like another unit', () => {
  // A zone of 300 km about the middle of the demo's, in metres.
  const isInside = (e: number, n: number): boolean =>
    Math.abs(e - 5_500_000) < 150_000 && Math.abs(n - 6_150_000) < 900_000;
  test.each([
    [5_512_000, 6_150_000, undefined],
    [5_512_000 / 0.3048, 6_150_000 / 0.3048, 'feet-as-metres'],
    [6_150_000, 5_512_000, 'axes-swapped'],
    [-60.1, -34.8, 'degrees'],
    [1000, 1000, 'elsewhere'],
  ] as const)('%d, %d: %s', (easting, northing, finding) => {
    expect(checkPlace({ easting, northing, unit: 'metre', isInside })).toBe(finding);
  });
  test('metres in a system of feet', () => {
    const inFeet = (e: number, n: number): boolean => isInside(e * 0.3048, n * 0.3048);
    expect(checkPlace({ easting: 5_512_000, northing: 6_150_000, unit: 'us-survey-foot', isInside: inFeet })).toBe(
      'metres-as-feet',
    );
  });
});
