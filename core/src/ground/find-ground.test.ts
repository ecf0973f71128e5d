import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { newPointBatch, type PointBatch } from '../cloud/index.js';
import { seededRandom } from '../task/index.js';
import {
  addGreenness,
  classifyAgainstPlanes,
  densifyDefaults,
  densifyTin,
  excessGreen,
  findGround,
  greennessLimit,
  groundNoise,
  groundPlanes,
  newGreennessHistogram,
  newLowestRaster,
  newNearSums,
  proposeGround,
  steepSlope,
  type GroundSettings,
} from './index.js';

const QUANTISATION = { scale: [0.001, 0.001, 0.001], offset: [0, 0, 0] } as const;
const SIDE = 60;
const FRAME = { east: 0, north: 0, cell: 1, columns: SIDE, rows: SIDE };
const ALL = new Uint8Array(256).fill(1);

interface Sample {
  readonly e: number;
  readonly n: number;
  readonly z: number;
  readonly colour?: readonly [number, number, number];
}

function cloudOf(samples: readonly Sample[]): PointBatch {
  const batch = newPointBatch(samples.length, {
    gpsTime: false,
    rgb: samples.some(({ colour }) => colour !== undefined),
    nearInfrared: false,
    wavePacket: false,
    extraBytesLength: 0,
  });
  samples.forEach(({ e, n, z, colour }, i) => {
    batch.x[i] = Math.round(e * 1000);
    batch.y[i] = Math.round(n * 1000);
    batch.z[i] = Math.round(z * 1000);
    batch.returns[i] = 0x11;
    batch.classification[i] = 1;
    if (colour) [batch.red![i], batch.green![i], batch.blue![i]] = colour as [number, number, number];
  });
  return batch;
}

/** Four points a square metre over a surface, 1 cm of noise. */
function surfaceCloud(height: (e: number, n: number) => number, seed = 5): Sample[] {
  const random = seededRandom(seed);
  return Array.from({ length: SIDE * SIDE * 4 }, () => {
    const [e, n] = [random() * SIDE, random() * SIDE];
    return { e, n, z: height(e, n) + 0.01 * (random() + random() + random() - 1.5) };
  });
}

const settings = (change: Partial<GroundSettings> = {}): GroundSettings => ({
  ...proposeGround(
    { spacing: 0.5, steepSlope: 5, manyReturns: 0.1, hasColour: false, noise: 0.015, stripDisagreement: 0 },
    'metre',
  ).settings,
  cell: 1,
  tolerance: 0.06,
  ...change,
});
const share = (found: Uint8Array, samples: readonly Sample[], of: (s: Sample) => boolean): number => {
  const asked = samples.flatMap((s, i) => (of(s) ? [i] : []));
  return asked.filter((i) => found[i] === 2).length / asked.length;
};

describe('TIN densification (Axelsson 2000)', () => {
  const rasterOf = (height: (e: number, n: number) => number) => {
    const raster = newLowestRaster(FRAME);
    for (let i = 0; i < SIDE * SIDE; i++) raster.lowest[i] = height((i % SIDE) + 0.5, Math.floor(i / SIDE) + 0.5);
    return raster;
  };

  test('a plane comes back as it is, to its edge within the seeds', () => {
    const { heights } = densifyTin(
      rasterOf((e, n) => 10 + 0.2 * e - 0.1 * n),
      { ...densifyDefaults, largestBuilding: 20 },
    );
    for (let row = 2; row < SIDE - 2; row += 7)
      for (let column = 2; column < SIDE - 2; column += 7)
        expect(heights[row * SIDE + column]!).toBeCloseTo(10 + 0.2 * (column + 0.5) - 0.1 * (row + 0.5), 6);
  });

  test('a house stays out, a bank at 1 : 1.5 comes in', () => {
    const house = (e: number, n: number): boolean => e > 10 && e < 22 && n > 10 && n < 20;
    const bank = (e: number): number => Math.min(3, Math.max(0, (e - 40) / 1.5));
    const { heights, isCorner } = densifyTin(
      rasterOf((e, n) => bank(e) + (house(e, n) ? 5 : 0)),
      { ...densifyDefaults, largestBuilding: 30, angleDegrees: 20 },
    );
    for (let i = 0; i < SIDE * SIDE; i++) {
      const [e, n] = [(i % SIDE) + 0.5, Math.floor(i / SIDE) + 0.5];
      if (house(e, n)) expect(isCorner[i]).toBe(0);
      if (n > 25 && n < 55 && e < 55) expect(Math.abs(heights[i]! - bank(e))).toBeLessThan(0.35);
    }
  });

  test('one point, all points in one place or a line of points are land all the same', () => {
    for (const cells of [[1830], [61, 62, 63, 64]]) {
      const raster = newLowestRaster(FRAME);
      for (const i of cells) raster.lowest[i] = 7;
      const { heights } = densifyTin(raster, densifyDefaults);
      expect(heights.every((height) => Math.abs(height - 7) < 1e-9)).toBe(true);
    }
  });

  test('nothing to look at is told', () => {
    expect(() => densifyTin(newLowestRaster(FRAME), densifyDefaults)).toThrow(
      expect.objectContaining({ code: 'no-ground-candidates' }) as Error,
    );
  });
});

describe('planes of the second look', () => {
  test('either side of a wall keeps its own level to the brink', () => {
    const wall = (e: number): number => (e < 30.4 ? 0 : 2);
    const samples = surfaceCloud(wall);
    const found = findGround(cloudOf(samples), QUANTISATION, FRAME, settings({ largestBuilding: 10 }), ALL);
    expect(share(found, samples, ({ e }) => e > 29 && e < 30.4)).toBeGreaterThan(0.97);
    expect(share(found, samples, ({ e }) => e > 30.4 && e < 32)).toBeGreaterThan(0.97);
  });

  test('the slope of a cell is the gentler of those to its neighbours, none between opposite ones (minmod)', () => {
    const sums = newNearSums({ ...FRAME, columns: 4, rows: 1 });
    // Means at cell centres; heights 0, 1, 1.5, 0.
    [0, 1000, 1500, 0].forEach((z, i) => {
      sums.count[i] = 1;
      sums.x[i] = (i + 0.5) * 1000;
      sums.y[i] = 500;
      sums.z[i] = z;
    });
    expect([...groundPlanes(sums, QUANTISATION).eastSlope]).toEqual([1, 0.5, 0, -1.5]);
  });

  describe('a point a hand over the plane of its own cell', () => {
    const tolerance = 0.06;
    /** Level planes in three by three cells, the point's in the middle; `over` of every hundred points stand over them. */
    const isGround = (levels: readonly number[], z: number, over: number): boolean => {
      const sums = newNearSums({ ...FRAME, columns: 3, rows: 3 });
      levels.forEach((level, i) => {
        sums.count[i] = 100 - over;
        sums.over[i] = over;
        sums.x[i] = (100 - over) * ((i % 3) + 0.5) * 1000;
        sums.y[i] = (100 - over) * (Math.floor(i / 3) + 0.5) * 1000;
        sums.z[i] = (100 - over) * level * 1000;
      });
      const planes = {
        ...groundPlanes(sums, QUANTISATION),
        eastSlope: new Float32Array(9),
        northSlope: new Float32Array(9),
      };
      levels.forEach((level, i) => (planes.height[i] = level));
      const batch = cloudOf([{ e: 1.5, n: 1.5, z }]);
      const far = new Float64Array(9).fill(-5);
      return classifyAgainstPlanes(batch, QUANTISATION, planes, far, { tolerance, tallestStep: 3 }, ALL)[0] === 2;
    };
    const LEVEL = [0, 0, 0, 0, 0, 0, 0, 0, 0];
    const oneHigher = LEVEL.map((level, i) => (i === 5 ? 0.12 : level));
    const sideHigher = LEVEL.map((level, i) => (i % 3 === 2 ? 0.12 : level));

    test('is ground where one plane beside it says so on bare land: the edge of a kerb', () => {
      expect([isGround(oneHigher, 0.12, 0), isGround(sideHigher, 0.12, 0), isGround(LEVEL, 0.12, 0)]).toEqual([
        true,
        true,
        false,
      ]);
    });

    test('where much grows it is grass, unless two planes say that it is ground', () => {
      expect([isGround(oneHigher, 0.12, 50), isGround(sideHigher, 0.12, 50)]).toEqual([false, true]);
    });

    test('the face of a tall wall is ground among scrub as well; a low one may be grass', () => {
      const wall = (height: number): number[] => LEVEL.map((level, i) => (i === 5 ? height : level));
      expect([isGround(wall(1.5), 0.3, 50), isGround(wall(0.4), 0.3, 50), isGround(wall(0.4), 0.3, 0)]).toEqual([
        true,
        false,
        true,
      ]);
    });

    test('under the plane, or without one of its own, it is taken as before', () => {
      const oneLower = LEVEL.map((level, i) => (i === 5 ? -0.15 : level));
      expect(isGround(oneLower, -0.15, 50)).toBe(true);
      expect(
        isGround(
          oneHigher.map((level, i) => (i === 4 ? NaN : level)),
          0.12,
          50,
        ),
      ).toBe(true);
    });
  });
});

describe('ground of a cloud', () => {
  test.each(['tin', 'cloth'] as const)('%s: no point of a solid planted anywhere on a slope is ground', (method) => {
    fc.assert(
      fc.property(
        fc.record({
          east: fc.double({ min: 12, max: 40, noNaN: true }),
          north: fc.double({ min: 12, max: 40, noNaN: true }),
          side: fc.double({ min: 3, max: 9, noNaN: true }),
          height: fc.double({ min: 2, max: 8, noNaN: true }),
        }),
        ({ east, north, side, height }) => {
          const isIn = ({ e, n }: Sample): boolean => e > east && e < east + side && n > north && n < north + side;
          const samples = surfaceCloud((e) => 0.05 * e).map((s) => (isIn(s) ? { ...s, z: s.z + height } : s));
          const found = findGround(cloudOf(samples), QUANTISATION, FRAME, settings({ method, landShape: 'flat' }), ALL);
          expect(share(found, samples, isIn)).toBe(0);
          expect(share(found, samples, (s) => !isIn(s))).toBeGreaterThan(0.97);
        },
      ),
      { seed: 1905, numRuns: 12 },
    );
  });

  test('does not depend on the order of the points', () => {
    const samples = surfaceCloud((e, n) => Math.sin(e / 9) + Math.cos(n / 7));
    const random = seededRandom(3);
    const order = samples.map((_, i) => i).sort(() => random() - 0.5);
    const one = findGround(cloudOf(samples), QUANTISATION, FRAME, settings(), ALL);
    const other = findGround(cloudOf(order.map((i) => samples[i]!)), QUANTISATION, FRAME, settings(), ALL);
    expect([...other]).toEqual(order.map((i) => one[i]));
  });

  test('cut short pulses, noise and withheld points are never ground', () => {
    const samples = surfaceCloud(() => 0);
    const batch = cloudOf(samples);
    batch.returns[0] = 0x12 | 0x20; // 2 of 3
    batch.classification[1] = 7;
    batch.flags[2] = 4;
    const takes = ALL.slice();
    takes[7] = 0;
    const found = findGround(batch, QUANTISATION, FRAME, settings(), takes);
    expect([found[0] === 2, found[1], found[2]]).toEqual([false, 7, 1]);
  });

  test('tall grass seen from above goes by its green', () => {
    // A meadow that stands 0.4 m high all over but for bare places every few metres: shape alone cannot tell.
    const isBare = ({ e, n }: { e: number; n: number }): boolean =>
      Math.floor(e / 3) % 3 === 0 && Math.floor(n / 3) % 2 === 0;
    const samples = surfaceCloud(() => 0).map((s): Sample => ({
      ...s,
      z: isBare(s) ? s.z : s.z + 0.4,
      colour: isBare(s) ? [30_000, 28_000, 22_000] : [17_000, 28_000, 10_000],
    }));
    const run = (trustGreenLess: boolean): number =>
      share(
        findGround(cloudOf(samples), QUANTISATION, FRAME, settings({ trustGreenLess, cell: 1 }), ALL),
        samples,
        (s) => !isBare(s),
      );
    expect(run(false)).toBeGreaterThan(0.3);
    expect(run(true)).toBe(0);
  });
});

describe('greenness', () => {
  test('excess green as Woebbecke et al. 1995 define it: 2g - r - b of chromatic shares', () => {
    expect(excessGreen(0, 1, 0)).toBe(2);
    expect(excessGreen(5, 5, 5)).toBe(0);
    expect(excessGreen(1, 0, 0)).toBe(-1);
    expect(excessGreen(50, 100, 50)).toBeCloseTo(0.5, 12);
    expect(excessGreen(0, 0, 0)).toBe(0);
  });

  test('two humps part between them (Otsu 1979); one colour does not part', () => {
    const colours = (green: readonly number[]) => ({
      count: green.length,
      red: new Uint16Array(green.length).fill(100),
      green: Uint16Array.from(green),
      blue: new Uint16Array(green.length).fill(100),
    });
    const histogram = newGreennessHistogram();
    addGreenness(
      histogram,
      colours([...Array.from({ length: 500 }, () => 100), ...Array.from({ length: 500 }, () => 200)]),
    );
    const parted = greennessLimit(histogram)!;
    expect(parted.limit).toBeGreaterThan(0);
    expect(parted.limit).toBeLessThan(0.5);
    const one = newGreennessHistogram();
    addGreenness(one, colours(Array.from({ length: 500 }, () => 150)));
    expect(greennessLimit(one)).toBeUndefined();
  });
});

describe('what a cloud tells of itself', () => {
  const columns = (samples: readonly Sample[]) => ({
    count: samples.length,
    x: samples.map(({ e }) => e),
    y: samples.map(({ n }) => n),
    z: samples.map(({ z }) => z),
  });

  test('its slope and its noise', () => {
    const samples = surfaceCloud((e) => Math.tan((20 * Math.PI) / 180) * e);
    expect(steepSlope(columns(samples), 1)).toBeCloseTo(20, 0);
    // The sum of three even deviates less 1.5 has a standard deviation of a half.
    expect(groundNoise([columns(samples)], 2)!).toBeGreaterThan(0.0035);
    expect(groundNoise([columns(samples)], 2)!).toBeLessThan(0.006);
  });

  test('settings come with their reasons and in the unit of the job', () => {
    const evidence = {
      spacing: 0.2,
      steepSlope: 4,
      manyReturns: 0,
      hasColour: true,
      noise: 0.02,
      stripDisagreement: 0,
    };
    const metric = proposeGround(evidence, 'metre');
    const feet = proposeGround(evidence, 'international-foot');
    expect(metric.settings.trustGreenLess).toBe(true);
    expect(metric.reasons.join(' ')).toMatch(/photographs/);
    expect(feet.settings.tolerance * 0.3048).toBeCloseTo(metric.settings.tolerance, 9);
    expect(proposeGround({ ...evidence, manyReturns: 0.3 }, 'metre').settings.trustGreenLess).toBe(false);
  });
});
