import {
  findBreaks as findAll,
  followBreak as follow,
  PointField,
  type BreakOptions,
  type FoundBreak,
} from '@pampero/core/breaks';
import { classMask, unpackColumns } from '@pampero/core/cloud';
import { planBounds } from '@pampero/core/raster';
import { PamperoError } from '@pampero/core/task';
import { formatCount } from '@pampero/core/wording';
import type { MessagePort } from 'node:worker_threads';
import { chosenPoints, isChosen, type CloudColumns } from './chosen-points.js';
import { throttled } from './throttled.js';

export interface BreakSite {
  readonly clouds: readonly CloudColumns[];
  readonly classes: readonly number[];
  /** As typed; a half profile of 0 is reckoned from the kind and the spacing. */
  readonly options: BreakOptions;
  readonly metresPerUnit: number;
}

/** Breaks in full coordinates, with what was reckoned for them. */
export interface Breaks {
  readonly found: readonly Omit<FoundBreak, 'axis' | 'halfWidth'>[];
  readonly spacing: number;
  readonly halfProfile: number;
}

/** Cells of the field: so many points lie in one on average. */
const POINTS_A_CELL = 16;
/** What one thread holds of a cloud. */
const MOST_POINTS = 30_000_000;
/** Half profiles in metres, and in point spacings where these are more. */
const HALF_PROFILES = { kerb: 0.8, wall: 2, bank: 6, ridge: 2, ditch: 2, track: 4, bend: 2, tone: 2 } as const;
const IN_SPACINGS = 6;

export function followBreak(
  task: BreakSite & { readonly guide: readonly (readonly [number, number])[]; readonly goesOn: boolean },
): Breaks {
  const { field, origin, options } = fieldOf(task);
  const guide = task.guide.map(([e, n]): [number, number] => [e - origin[0], n - origin[1]]);
  const found = follow(field, guide, options, task.goesOn);
  if (found.length === 0)
    throw new PamperoError('no-break', {
      what: 'No profile along the guide shows such a break.',
      fix: 'Lay the guide nearer to it, widen the search, or change the heights looked for.',
    });
  return inFull(found, origin, field, options);
}

export function findBreaks(
  task: BreakSite & { readonly leastLength: number; readonly leastAgree: number; readonly port: MessagePort },
): Breaks {
  const { field, origin, options } = fieldOf(task);
  const { leastLength, leastAgree } = task;
  return inFull(findAll(field, options, { leastLength, leastAgree }, throttled(task.port)), origin, field, options);
}

function fieldOf({ clouds, classes, options, metresPerUnit }: BreakSite): {
  field: PointField;
  origin: readonly [number, number];
  options: BreakOptions;
} {
  const mask = classMask(classes);
  const { easting, northing, elevation } = chosenPoints(clouds, mask);
  if (easting.length === 0)
    throw new PamperoError('no-points', {
      what: 'No points of the chosen classes lie there.',
      fix: 'Find ground first, or choose other classes.',
    });
  if (easting.length > MOST_POINTS)
    throw new PamperoError('too-many-points', {
      what: `There are ${formatCount(easting.length)} points of the chosen classes; at most ${formatCount(MOST_POINTS)} are searched at once.`,
      fix: 'Thin the cloud, or copy a part of it to a cloud of its own.',
    });
  const { west, south, east, north } = planBounds(easting, northing);
  const origin = [Math.floor(west), Math.floor(south)] as const;
  for (let i = 0; i < easting.length; i++) {
    easting[i]! -= origin[0];
    northing[i]! -= origin[1];
  }
  const spacing = Math.sqrt(Math.max(1e-6, ((east - west) * (north - south)) / easting.length));
  const tone = options.kind === 'tone' ? tonesOf(clouds, mask, easting.length) : undefined;
  const field = new PointField(
    { easting, northing, elevation, ...(tone && { tone }) },
    spacing * Math.sqrt(POINTS_A_CELL),
  );
  const usual = HALF_PROFILES[options.kind] / metresPerUnit;
  const halfProfile = options.halfProfile > 0 ? options.halfProfile : Math.max(usual, IN_SPACINGS * field.spacing);
  return { field, origin, options: { ...options, halfProfile } };
}

/** Intensities, in the order of {@link chosenPoints}. */
function tonesOf(clouds: readonly CloudColumns[], mask: Uint8Array, count: number): Float32Array {
  const tone = new Float32Array(count);
  let at = 0;
  for (const { nodes, attributes } of clouds)
    for (const node of nodes) {
      const { intensity } = unpackColumns(node.attributes!, node.count, attributes!.names, attributes!.columns, ['intensity']); // prettier-ignore
      const values = intensity as Uint16Array;
      for (let i = 0; i < node.count; i++) if (isChosen(node, i, mask)) tone[at++] = values[i]!;
    }
  return tone;
}

function inFull(
  found: readonly FoundBreak[],
  [oe, on]: readonly [number, number],
  field: PointField,
  { halfProfile }: BreakOptions,
): Breaks {
  return {
    found: found.map(({ axis: _, halfWidth: __, ...line }) => ({
      ...line,
      strands: Object.fromEntries(
        Object.entries(line.strands).map(([strand, corners]) => [
          strand,
          corners.map(([e, n, z]) => [e + oe, n + on, z] as const),
        ]),
      ),
      bridged: line.bridged.map((gap) => ({ ...gap, easting: gap.easting + oe, northing: gap.northing + on })),
    })),
    spacing: field.spacing,
    halfProfile,
  };
}
