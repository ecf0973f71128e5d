import { buildingOutlines, type BuildingOutline, type OutlineOptions } from '@pampero/core/objects';
import {
  joinEnds,
  LINE_SHAPERS,
  LineError,
  offsetLine,
  packLines,
  planLength,
  unpackLines,
  type FeatureLine,
  type LineShape,
} from '@pampero/core/lines';
import { classMask } from '@pampero/core/cloud';
import { channelsOf, flowOver, sinksOf, type Sink } from '@pampero/core/drainage';
import { drapeLine } from '@pampero/core/profiles';
import {
  areasBetween,
  crossSections,
  type CrossSection,
  type SectionAreas,
  type SectionSettings,
} from '@pampero/core/sections';
import { PamperoError } from '@pampero/core/task';
import {
  gridFrameOver,
  sampleTin,
  triangulate,
  unpackTin,
  type Tin,
  voidOutlines,
  type VoidOptions,
  type VoidOutline,
} from '@pampero/core/terrain';
import { FacetIndex, volumeBetween, type Volume } from '@pampero/core/volumes';
import { waterEdges, type WaterEdge, type WaterEdgeOptions } from '@pampero/core/water-edges';
import type { ShapeLinesParameters } from '@pampero/contract';
import { chosenPoints, type CloudColumns } from './chosen-points.js';

export interface ShapedLines {
  /** As {@link packLines} has them, each with the key of the line it was made of; the first of several. */
  readonly lines: Uint8Array<ArrayBuffer>;
  /** Lines that went into another. */
  readonly gone: readonly number[];
  /** Lines that were left as they are, and why, one sentence each. */
  readonly left: readonly string[];
}

type Shaping = Omit<ShapeLinesParameters, 'keys' | 'codes' | 'surfaceId' | 'newCode'>;

/** Gives lines another shape; one that cannot have it stays, and the reason is told. */
export function shapeLines(task: {
  readonly lines: Uint8Array;
  readonly how: Shaping;
  readonly tin?: Uint8Array;
}): ShapedLines {
  const lines = unpackLines(task.lines);
  const { how } = task;
  const { shaping } = how;
  if (shaping === 'join') return joined(lines, how.gap);
  const shape = shaper({ ...how, shaping }, task.tin && unpackTin(task.tin));
  const out: FeatureLine[] = [];
  const left: string[] = [];
  for (const line of lines) {
    try {
      out.push({ ...shape(line), key: line.key, entry: line.entry });
    } catch (error) {
      if (!(error instanceof LineError)) throw error;
      left.push(`Line ${line.key}: ${error.what}`);
    }
  }
  if (out.length === 0 && left.length > 0)
    throw new PamperoError('no-line-shaped', { what: left[0]!, fix: 'Change the settings, or choose other lines.' });
  return { lines: packLines(out), gone: [], left };
}

function joined(lines: readonly FeatureLine[], gap: number): ShapedLines {
  const all = joinEnds(lines, gap).filter(({ of }) => of.length > 1);
  if (all.length === 0)
    throw new PamperoError('no-line-shaped', {
      what: 'No two ends of these lines lie that near to each other.',
      fix: 'Allow a larger gap.',
    });
  const keyOf = (k: number): number => lines[k]!.key;
  return {
    lines: packLines(all.map(({ shape, of }) => ({ ...shape, key: keyOf(of[0]!), entry: 0 }))),
    gone: all.flatMap(({ of }) => of.slice(1).map(keyOf)),
    left: [],
  };
}

function shaper(
  how: Shaping & { readonly shaping: Exclude<Shaping['shaping'], 'join'> },
  tin: Tin | undefined,
): (line: LineShape) => LineShape {
  if (how.shaping !== 'drape') {
    const shape = LINE_SHAPERS[how.shaping];
    return (line) => shape(line, how);
  }
  if (!tin) throw new PamperoError('no-surface', { what: 'No surface was chosen.', fix: 'Choose the surface to drape on.' }); // prettier-ignore
  const index = new FacetIndex(tin, tin.origin);
  return (line) => drapeLine(line, tin, index);
}

/** Channels and sinks of a surface. */
export function findChannels(task: {
  readonly tin: Uint8Array;
  readonly cell: number;
  readonly catchment: number;
  readonly sinkDepth: number;
}): {
  readonly channels: Uint8Array<ArrayBuffer>;
  readonly catchments: readonly number[];
  readonly sinks: readonly Sink[];
} {
  const tin = unpackTin(task.tin);
  const rough = gridFrameOver(tin, 1);
  const [columns, rows] = extentOf(tin).map((length) => Math.max(1, Math.ceil(length / task.cell))) as [number, number];
  if (columns * rows > MOST_CELLS)
    throw new PamperoError('grid-too-large', {
      what: `The surface has ${Math.round((columns * rows) / 1e6)} million cells of that size; at most ${MOST_CELLS / 1e6} million are reckoned with.`,
      fix: 'Give larger cells.',
    });
  const frame = { ...rough, cell: task.cell, columns, rows };
  const elevation = sampleTin(tin, frame);
  const flow = flowOver(elevation, frame);
  const channels = channelsOf(elevation, flow, frame, task.catchment);
  return {
    channels: packLines(channels.map(({ shape }, k) => ({ ...shape, key: k, entry: 0 }))),
    catchments: channels.map(({ catchment }) => catchment),
    sinks: sinksOf(elevation, flow, frame, task.sinkDepth),
  };
}

const MOST_CELLS = 60_000_000;

function extentOf({ easting, northing }: Tin): [number, number] {
  let [east, north] = [0, 0];
  for (let i = 0; i < easting.length; i++) {
    if (easting[i]! > east) east = easting[i]!;
    if (northing[i]! > north) north = northing[i]!;
  }
  return [east, north];
}

/** Edges of the water in some clouds. */
export function findWaterEdges(task: {
  readonly clouds: readonly CloudColumns[];
  readonly waterClass: number;
  readonly landClasses: readonly number[];
  readonly options: WaterEdgeOptions;
}): WaterEdge[] {
  const water = chosenPoints(task.clouds, classMask([task.waterClass]));
  if (water.easting.length === 0)
    throw new PamperoError('no-points', {
      what: 'There are no points of class 9, water.',
      fix: 'Find water in Classify first.',
    });
  return waterEdges(water, chosenPoints(task.clouds, classMask(task.landClasses)), task.options);
}

/** Outlines of the buildings of some clouds. */
export function outlineBuildings(task: {
  readonly clouds: readonly CloudColumns[];
  readonly classes: readonly number[];
  readonly options: OutlineOptions;
}): BuildingOutline[] {
  const roofs = chosenPoints(task.clouds, classMask(task.classes));
  if (roofs.easting.length === 0)
    throw new PamperoError('no-points', {
      what: 'There are no points of the chosen classes.',
      fix: 'Find objects in Classify first: it gives roofs class 6.',
    });
  return buildingOutlines(roofs, task.options);
}

/** Land without ground points. */
export function outlineVoids(task: {
  readonly clouds: readonly CloudColumns[];
  readonly classes: readonly number[];
  readonly options: VoidOptions;
}): VoidOutline[] {
  const ground = chosenPoints(task.clouds, classMask(task.classes));
  if (ground.easting.length === 0)
    throw new PamperoError('no-ground', {
      what: 'There are no ground points, so all of it is void.',
      fix: 'Find ground in Classify first.',
    });
  return voidOutlines(ground, task.options);
}

export interface CutSections {
  readonly sections: readonly (CrossSection & { readonly areas?: SectionAreas })[];
  readonly length: number;
  /** Between the two surfaces within the corridor the sections reach over. */
  readonly exact?: Pick<Volume, 'cut' | 'fill'>;
}

/** Cross sections of one or two surfaces along a line. */
export function cutSections(task: {
  readonly line: Uint8Array;
  readonly tins: readonly Uint8Array[];
  readonly settings: SectionSettings;
}): CutSections {
  const [line] = unpackLines(task.line);
  const surfaces = task.tins.map((bytes) => unpackTin(bytes));
  const sections = crossSections(line!, surfaces, task.settings);
  const length = planLength(line!);
  const [first, second] = surfaces;
  if (!first || !second) return { sections, length };
  return {
    length,
    sections: sections.map((section) => ({
      ...section,
      areas: areasBetween(section.profiles[0]!, section.profiles[1]!),
    })),
    // From the ground to the design: what lies over the design is cut.
    exact: volumeBetween(second, first, corridorOf(line!, task.settings)),
  };
}

/** The land beside a line, between an offset to the left and one to the right. */
function corridorOf(line: LineShape, { left, right }: SectionSettings): Tin {
  const [one, other] = [offsetLine(line, -Math.max(left, 1e-6)), offsetLine(line, Math.max(right, 1e-6))];
  const easting = [...one.easting, ...[...other.easting].reverse()];
  const northing = [...one.northing, ...[...other.northing].reverse()];
  const none = new Float64Array();
  const outline = { role: 'boundary', isClosed: true, easting, northing, elevation: easting.map(() => 0) } as const;
  return triangulate(none, none, none, { maximumEdge: 0 }, [outline]).tin;
}
