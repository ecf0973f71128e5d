import type { BreakOptions, FieldPoints } from '@pampero/core/breaks';
import { seededRandom } from '@pampero/core/task';
import { smoothNoise } from '@pampero/demo';

export type Place = readonly [e: number, n: number];

/** A line that is there, by place, with the elevation of the ground on it. */
export interface TrueLine {
  readonly strand: string;
  readonly places: readonly Place[];
  readonly elevation: (e: number, n: number) => number;
}

/** Simulated land with breaks that are known. */
export interface LineScene {
  readonly name: string;
  readonly points: FieldPoints;
  readonly spacing: number;
  readonly noise: number;
  readonly kind: Partial<BreakOptions> & Pick<BreakOptions, 'kind'>;
  /** Where a surveyor would click: rough lines, a step or two beside the break. */
  readonly guides: readonly (readonly Place[])[];
  readonly lines: readonly TrueLine[];
  /** Stretches where there is nothing to find and a line is no mistake: drives across a kerb. */
  readonly neutral: readonly (readonly Place[])[];
}

/** Along a line that meanders: place, direction, station. */
interface Course {
  readonly at: readonly Place[];
  readonly normal: readonly Place[];
  readonly station: readonly number[];
}

function course(length: number, sway: number, waves: number, phase: number): Course {
  const at: Place[] = [];
  const count = Math.round(length / 0.25);
  for (let k = 0; k <= count; k++) {
    const x = (length * k) / count;
    at.push([x + 20, 60 + sway * Math.sin((2 * Math.PI * waves * x) / length + phase)]);
  }
  const normal = at.map((_, k): Place => {
    const [a, b] = [at[Math.max(0, k - 1)]!, at[Math.min(count, k + 1)]!];
    const size = Math.hypot(b[0] - a[0], b[1] - a[1]);
    return [-(b[1] - a[1]) / size, (b[0] - a[0]) / size];
  });
  const station = at.map(() => 0);
  for (let k = 1; k <= count; k++) station[k] = station[k - 1]! + Math.hypot(at[k]![0] - at[k - 1]![0], at[k]![1] - at[k - 1]![1]); // prettier-ignore
  return { at, normal, station };
}

/** How far a place lies to the left of the course, and at which of its places: the nearest, looked for about where x says. */
function besides({ at, normal }: Course): (e: number, n: number) => { off: number; k: number } {
  return (e, n) => {
    const guess = Math.round((e - 20) / 0.25);
    let [best, k] = [Infinity, 0];
    for (let d = -50; d <= 50; d++) {
      const i = Math.max(0, Math.min(at.length - 1, guess + d));
      const distance = (e - at[i]![0]) ** 2 + (n - at[i]![1]) ** 2;
      if (distance < best) [best, k] = [distance, i];
    }
    const [pe, pn] = [e - at[k]![0], n - at[k]![1]];
    return { off: pe * normal[k]![0] + pn * normal[k]![1], k };
  };
}

const shifted = ({ at, normal }: Course, off: number, from = 0, to = Infinity): Place[] =>
  at.flatMap(([e, n], k): Place[] =>
    k >= from && k <= to ? [[e + normal[k]![0] * off, n + normal[k]![1] * off]] : [],
  );

function gauss(random: () => number): number {
  return Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
}

function sampled(
  random: () => number,
  [west, south, east, north]: readonly [number, number, number, number],
  spacing: number,
  noise: number,
  height: (e: number, n: number) => number,
): FieldPoints {
  const count = Math.round(((east - west) * (north - south)) / spacing ** 2);
  const [easting, northing, elevation] = [0, 1, 2].map(() => new Float64Array(count)) as [Float64Array, Float64Array, Float64Array]; // prettier-ignore
  for (let i = 0; i < count; i++) {
    easting[i] = west + (east - west) * random();
    northing[i] = south + (north - south) * random();
    elevation[i] = height(easting[i]!, northing[i]!) + noise * gauss(random);
  }
  return { easting, northing, elevation };
}

/** A street with kerbs on both sides, drives over them, and a verge behind. */
export function kerbScene(seed: number, { spacing = 0.15, noise = 0.012 } = {}): LineScene {
  const random = seededRandom(seed);
  const length = 220;
  const [halfRoad, kerb] = [3.5, 0.11 + 0.04 * random()];
  const road = course(length, 6 + 8 * random(), 1 + random(), 6.28 * random());
  const aside = besides(road);
  const [grade, phase] = [0.01 + 0.02 * random(), 100 * random()];
  const surface = (e: number, n: number): number => 20 + grade * e + 1.2 * smoothNoise(e / 40 + phase, n / 40);
  // Drives: along the course, on either side.
  const drives = [1, -1].flatMap((side) =>
    Array.from({ length: 7 }, (_, k) => {
      const middle = 20 + k * 30 + 8 * random();
      return { side, from: middle - 1.5 - random(), to: middle + 1.5 + random() };
    }),
  );
  const kerbAt = (station: number, side: number): number => {
    let share = 1;
    for (const drive of drives) {
      if (drive.side !== side) continue;
      // Lowered over a metre on either side of the drive.
      const out = Math.max(drive.from - station, station - drive.to, 0);
      share = Math.min(share, out);
    }
    return 0.015 + (kerb - 0.015) * Math.min(1, share);
  };
  const height = (e: number, n: number): number => {
    const { off, k } = aside(e, n);
    const distance = Math.abs(off);
    const middle = surface(e, n);
    if (distance <= halfRoad) return middle - 0.025 * distance;
    // Behind a drive the land is as high as beside it: ramps end within three metres.
    const behind = Math.min(1, (distance - halfRoad) / 3);
    const up = kerbAt(road.station[k]!, Math.sign(off)) * (1 - behind) + kerb * behind;
    const face = Math.min(1, (distance - halfRoad) / 0.03);
    return middle - 0.025 * halfRoad + up * face + 0.03 * Math.max(0, Math.min(3, distance - halfRoad - 0.03));
  };
  const points = sampled(random, [20, 30, 240, 90], spacing, noise, height);
  const [first, last] = [8, road.at.length - 9]; // the field ends
  const lines: TrueLine[] = [];
  const neutral: Place[][] = [];
  for (const side of [1, -1] as const) {
    const stops = drives.filter((drive) => drive.side === side).flatMap(({ from, to }) => [from - 1, to + 1]);
    const kAt = (station: number): number => road.station.findIndex((s) => s >= station);
    const cuts = [first, ...stops.map(kAt).filter((k) => k > first && k < last), last];
    for (let c = 0; c + 1 < cuts.length; c++) {
      const [from, to] = [cuts[c]!, cuts[c + 1]!];
      const isKerb = c % 2 === 0;
      if (!isKerb) neutral.push(shifted(road, side * halfRoad, from, to));
      else
        for (const [strand, off] of [['foot', halfRoad], ['top', halfRoad + 0.03]] as const)
          lines.push({
            strand,
            places: shifted(road, side * off, from, to),
            elevation: (e, n) => {
              const { k } = aside(e, n);
              const gutter = surface(e, n) - 0.025 * halfRoad;
              return strand === 'foot' ? gutter : gutter + kerbAt(road.station[k]!, side);
            },
          }); // prettier-ignore
    }
  }
  // Clicked every twenty metres or so, up to half a metre aside.
  const guides = [1, -1].map((side) => {
    const way = shifted(road, side * halfRoad, first, last);
    return way.filter((_, k) => k % 80 === 0 || k === way.length - 1).map(([e, n]): Place => [e + (random() - 0.5), n + (random() - 0.5)]); // prettier-ignore
  });
  const kind = { kind: 'kerb', leastHeight: 0.06, mostHeight: 0.3, reach: 1, longestGap: 8 } as const;
  return { name: `kerbs, points every ${spacing} m`, points, spacing, noise, kind, guides, lines, neutral };
}

/** A flood bank that meanders over uneven land. */
export function bankScene(seed: number, { spacing = 0.4, noise = 0.03 } = {}): LineScene {
  const random = seededRandom(seed);
  const axis = course(220, 8 + 8 * random(), 1 + random(), 6.28 * random());
  const aside = besides(axis);
  const phase = 100 * random();
  const land = (e: number, n: number): number => 20 + 0.7 * smoothNoise(e / 60 + phase, n / 60);
  const [half, slope] = [1.75 + 0.5 * random(), 0.4 + 0.15 * random()];
  const crest = (k: number): number => 22.6 + 0.3 * smoothNoise(axis.station[k]! / 80, phase);
  const height = (e: number, n: number): number => {
    const { off, k } = aside(e, n);
    return Math.max(land(e, n), crest(k) - slope * Math.max(0, Math.abs(off) - half));
  };
  const points = sampled(random, [20, 20, 240, 100], spacing, noise, height);
  const [first, last] = [16, axis.at.length - 17];
  const lines = [1, -1].flatMap((side): TrueLine[] => {
    const top = shifted(axis, side * half, first, last);
    // The toe lies where the slope meets the land.
    const toe = axis.at.flatMap(([e, n], k): Place[] => {
      if (k < first || k > last) return [];
      const [ne, nn] = axis.normal[k]!;
      for (let out = 0; out < 20; out += 0.01) {
        const place: Place = [e + ne * side * (half + out), n + nn * side * (half + out)];
        if (crest(k) - slope * out <= land(...place)) return [place];
      }
      return [];
    });
    return [
      { strand: 'top', places: top, elevation: height },
      { strand: 'toe', places: toe, elevation: height },
    ];
  });
  const guides = [1, -1].map((side) => {
    const way = shifted(axis, side * (half + 3), first, last);
    return way.filter((_, k) => k % 80 === 0 || k === way.length - 1).map(([e, n]): Place => [e + 2 * (random() - 0.5), n + 2 * (random() - 0.5)]); // prettier-ignore
  });
  const kind = { kind: 'bank', leastTurn: 0.2, halfProfile: 7, reach: 3, longestGap: 6 } as const;
  return { name: `bank, points every ${spacing} m`, points, spacing, noise, kind, guides, lines, neutral: [] };
}
