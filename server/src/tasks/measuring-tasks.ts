import { accuracyStatement, saysVegetated, type AccuracyStatement, type CheckedPoint } from '@pampero/core/accuracy';
import { classMask } from '@pampero/core/cloud';
import { profileOf, simplified, type Profile } from '@pampero/core/profiles';
import { triangulate, unpackTin, type TerrainLine, type Tin } from '@pampero/core/terrain';
import { FacetIndex, volumeBetween, type Volume } from '@pampero/core/volumes';
import { chosenPoints, type CloudColumns } from './chosen-points.js';

export interface VolumeTask {
  readonly tin: Uint8Array;
  /** A level, another surface, or a base laid through the outline at the surface's own heights. */
  readonly against: { readonly level: number } | { readonly tin: Uint8Array } | 'outline';
  readonly outline: readonly TerrainLine[];
}

export function measureVolume({ tin, against, outline }: VolumeTask): Volume & { outlineOff: number } {
  const first = unpackTin(tin);
  const within = outline.length > 0 ? flatTin(outline) : undefined;
  if (against !== 'outline') {
    const second = 'level' in against ? against.level : unpackTin(against.tin);
    return { ...volumeBetween(first, second, within), outlineOff: 0 };
  }
  const index = new FacetIndex(first, [0, 0]);
  let outlineOff = 0;
  const outlines = outline.map((line): TerrainLine => {
    const places = followed(line);
    const elevation = places.map(([e, n]) => index.elevationAt(e, n) ?? NaN);
    outlineOff += elevation.filter((z) => Number.isNaN(z)).length;
    return boundary(places, elevation);
  });
  return { ...volumeBetween(first, fromOutlines(outlines), within), outlineOff };
}

function boundary(places: readonly (readonly [number, number])[], elevation: readonly number[]): TerrainLine {
  return {
    role: 'boundary',
    isClosed: true,
    easting: places.map(([e]) => e),
    northing: places.map(([, n]) => n),
    elevation,
  };
}

function fromOutlines(outlines: readonly TerrainLine[]): Tin {
  const none = new Float64Array();
  return triangulate(none, none, none, { maximumEdge: 0 }, outlines).tin;
}

function flatTin(lines: readonly TerrainLine[]): Tin {
  return fromOutlines(
    lines.map(({ easting, northing }) =>
      boundary(
        easting.map((e, k) => [e, northing[k]!] as const),
        easting.map(() => 0),
      ),
    ),
  );
}

/** An outline with a vertex at least every two hundredth of its length. */
function followed({ easting, northing }: TerrainLine): [number, number][] {
  const count = easting.length;
  const side = (k: number): [number, number] => [
    easting[(k + 1) % count]! - easting[k]!,
    northing[(k + 1) % count]! - northing[k]!,
  ];
  const length = easting.reduce((sum, _, k) => sum + Math.hypot(...side(k)), 0);
  const step = Math.max(1e-6, length / 200);
  return easting.flatMap((e, k) => {
    const [de, dn] = side(k);
    const pieces = Math.max(1, Math.ceil(Math.hypot(de, dn) / step));
    return Array.from({ length: pieces }, (_, p): [number, number] => [
      e + (de * p) / pieces,
      northing[k]! + (dn * p) / pieces,
    ]);
  });
}

export function accuracyOf({
  tin,
  points,
  surveyError,
}: {
  readonly tin: Uint8Array;
  readonly points: readonly Omit<CheckedPoint, 'surface'>[];
  readonly surveyError: number;
}): { statement: AccuracyStatement; points: CheckedPoint[] } {
  const index = new FacetIndex(unpackTin(tin), [0, 0]);
  const checked = points.map((point) => ({ ...point, surface: index.elevationAt(point.easting, point.northing) }));
  return { statement: accuracyStatement(checked, saysVegetated, surveyError), points: checked };
}

export function profileOfSurface({
  tin,
  line,
}: {
  readonly tin: Uint8Array;
  readonly line: readonly (readonly [number, number])[];
}): Profile {
  return simplified(profileOf(unpackTin(tin), line), 1e-4);
}

/** More points than this are thinned evenly: a chart shows no more. */
const MOST_SHOWN = 6000;

/** Points of a class within a distance of a line: stations along it, and elevations. */
export function pointsAlong({
  clouds,
  line,
  depth,
  classCode,
}: {
  readonly clouds: readonly CloudColumns[];
  readonly line: readonly (readonly [number, number])[];
  readonly depth: number;
  readonly classCode: number;
}): { station: Float64Array; elevation: Float64Array } {
  const { easting, northing, elevation } = chosenPoints(clouds, classMask([classCode]));
  const found: [number, number][] = [];
  for (let i = 0; i < easting.length; i++) {
    const [e, n] = [easting[i]!, northing[i]!];
    let begun = 0;
    for (let k = 0; k + 1 < line.length; k++) {
      const [ae, an] = line[k]!;
      const [de, dn] = [line[k + 1]![0] - ae, line[k + 1]![1] - an];
      const length = Math.hypot(de, dn);
      if (length > 0) {
        const along = ((e - ae) * de + (n - an) * dn) / length;
        const off = Math.abs((e - ae) * dn - (n - an) * de) / length;
        if (along >= 0 && along <= length && off <= depth) {
          found.push([begun + along, elevation[i]!]);
          break;
        }
      }
      begun += length;
    }
  }
  found.sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const stride = Math.max(1, Math.ceil(found.length / MOST_SHOWN));
  const shown = found.filter((_, i) => i % stride === 0);
  return {
    station: Float64Array.from(shown, ([station]) => station),
    elevation: Float64Array.from(shown, ([, z]) => z),
  };
}
