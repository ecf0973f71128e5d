import { findBreaks, followBreak, PointField, type BreakOptions, type FoundBreak } from '@pampero/core/breaks';
import { bankScene, kerbScene, type LineScene, type Place, type TrueLine } from './line-scenes.js';
import type { Row } from './rows.js';

const USUAL: BreakOptions = {
  ...{ kind: 'kerb', leastHeight: 0.06, mostHeight: 0.3, faceWidth: 0.1, stoneWidth: 0.15, leastTurn: 0.2 },
  ...{ halfProfile: 1, reach: 1, longestGap: 6 },
};

/** How well known kerbs and banks are found, along a guide and without one. */
export function* lineQuality(seeds: readonly number[]): Generator<Row> {
  for (const seed of seeds)
    for (const scene of [kerbScene(seed), kerbScene(seed, { spacing: 0.3, noise: 0.02 }), bankScene(seed)]) {
      const halfProfile = scene.kind.halfProfile ?? Math.max(0.8, 6 * scene.spacing);
      const options: BreakOptions = { ...USUAL, halfProfile, ...scene.kind };
      const field = new PointField(scene.points, Math.max(0.25, 4 * scene.spacing));
      const led = scene.guides.flatMap((guide) => followBreak(field, guide, options));
      yield* judged(`${scene.name}, seed ${seed}, along a guide`, scene, led);
      const all = findBreaks(field, options, { leastLength: 5, leastAgree: 0.6 });
      yield* judged(`${scene.name}, seed ${seed}, whole`, scene, all);
    }
}

function* judged(name: string, scene: LineScene, found: readonly FoundBreak[]): Generator<Row> {
  const { spacing, noise, lines, neutral } = scene;
  const strands = [...new Set(lines.map(({ strand }) => strand))];
  const near = Math.max(3 * spacing, 0.3);
  const truth = new Nearest(lines.flatMap(({ places, ...line }) =>
      [...walked(places.map(([e, n]) => [e, n, 0] as const), 0.04)].map(([e, n]) => ({ place: [e, n] as Place, line })),
    ));
  const allowed = new Nearest(neutral.flat().map((place) => ({ place, line: undefined })));
  let [foundLength, wholeLength, falseLength, madeLength] = [0, 0, 0, 0];
  let [plan, height, measured] = [0, 0, 0];
  for (const strand of strands) {
    const made = found.flatMap((line) => [...walked(line.strands[strand] ?? [], spacing)]);
    const own = new Nearest(made.map((place) => ({ place: [place[0], place[1]] as Place, line: undefined })));
    for (const { places } of lines.filter((line) => line.strand === strand))
      for (let k = 1; k < places.length; k++) {
        const length = Math.hypot(places[k]![0] - places[k - 1]![0], places[k]![1] - places[k - 1]![1]);
        wholeLength += length;
        if (own.distance(places[k]!) < near) foundLength += length;
      }
    for (const [e, n, z] of made) {
      madeLength += spacing;
      const hit = truth.nearest([e, n], (line) => line.strand === strand);
      if (hit.distance < near) {
        plan += hit.distance ** 2;
        height += (z - hit.line!.elevation(...hit.place)) ** 2;
        measured++;
      } else if (allowed.distance([e, n]) > near) falseLength += spacing;
    }
  }
  yield { name: `${name}: length found`, measured: (100 * foundLength) / wholeLength, unit: '%', target: 95, isMoreBetter: true };
  yield { name: `${name}: RMSE in plan`, measured: Math.sqrt(plan / measured) / spacing, unit: 'spacings', target: 1.5 };
  yield { name: `${name}: RMSE in height`, measured: Math.sqrt(height / measured) / noise, unit: 'of the noise', target: 1.5 };
  yield { name: `${name}: false`, measured: (100 * falseLength) / Math.max(1e-9, madeLength), unit: '%', target: 5 };
} // prettier-ignore

/** Places along a line, no further apart than a step. */
function* walked(
  corners: readonly (readonly [number, number, number])[],
  step: number,
): Generator<readonly [number, number, number]> {
  for (let k = 1; k < corners.length; k++) {
    const [a, b] = [corners[k - 1]!, corners[k]!];
    const pieces = Math.max(1, Math.ceil(Math.hypot(b[0] - a[0], b[1] - a[1]) / step));
    for (let p = 0; p < pieces; p++) yield [0, 1, 2].map((axis) => a[axis]! + ((b[axis]! - a[axis]!) * p) / pieces) as unknown as [number, number, number]; // prettier-ignore
  }
}

/** Places of known lines, a quarter of a metre apart, to be asked for the nearest. */
class Nearest<L extends Omit<TrueLine, 'places'> | undefined> {
  private readonly cells = new Map<string, { place: Place; line: L }[]>();

  constructor(all: readonly { place: Place; line: L }[]) {
    for (const each of all) {
      const key = `${Math.floor(each.place[0] / 2)} ${Math.floor(each.place[1] / 2)}`;
      const list = this.cells.get(key);
      if (list) list.push(each);
      else this.cells.set(key, [each]);
    }
  }

  distance(place: Place): number {
    return this.nearest(place, () => true).distance;
  }

  nearest(
    [e, n]: Place,
    isOf: (line: NonNullable<L>) => boolean,
  ): { distance: number; place: Place; line: L | undefined } {
    let best: { distance: number; place: Place; line: L | undefined } = {
      distance: Infinity,
      place: [e, n],
      line: undefined,
    };
    for (let dc = -1; dc <= 1; dc++)
      for (let dr = -1; dr <= 1; dr++)
        for (const { place, line } of this.cells.get(`${Math.floor(e / 2) + dc} ${Math.floor(n / 2) + dr}`) ?? []) {
          const distance = Math.hypot(place[0] - e, place[1] - n);
          if (distance < best.distance && (line === undefined || isOf(line as NonNullable<L>)))
            best = { distance, place, line };
        }
    return best;
  }
}
