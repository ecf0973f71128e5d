import { FormatError } from '@pampero/core/formats';
import {
  alignmentElevation,
  coordGeomPlaces,
  type GeometryElement,
  type ProfileVertex,
} from '@pampero/core/formats/landxml';
import type { CurvePlace } from '@pampero/core/formats/curves';
import { closedOff, type ReadLine } from '@pampero/core/formats/lines';
import type { LengthUnit } from '@pampero/core/geodesy';
import { listOf, openLandXml } from './landxml-document.js';

type Xml = Readonly<Record<string, unknown>>;

/** Elements in the order they stand in are kept by name only; a geometry's pieces go one after the other by where they begin. */
const PIECES = ['Line', 'IrregularLine', 'Curve', 'Spiral'] as const;
const LISTS = [
  ...['Surfaces', 'Surface', 'Breaklines', 'Breakline', 'Boundaries', 'Boundary', 'PlanFeatures', 'PlanFeature'],
  ...['Alignments', 'Alignment', 'Profile', 'ProfAlign', 'PVI', 'ParaCurve', 'CircCurve', 'CoordGeom', ...PIECES],
];

/**
 * Breaklines, boundaries, plan features and alignments of a LandXML text; alignments take their elevations from their first profile.
 * @throws FormatError
 */
export function readLandXmlLines(text: string, fileName: string, unit: LengthUnit, tolerance: number): ReadLine[] {
  const root = openLandXml(text, fileName, unit, LISTS);
  const lines: ReadLine[] = [];
  const put = (places: readonly CurvePlace[], name: string, isRing = false): void => {
    if (places.length > 1) lines.push(closedOff(places.map(({ x, y, z }) => [x, y, z] as const), name, isRing)); // prettier-ignore
  };
  for (const surface of listOf<Xml>(root['Surfaces']).flatMap((each) => listOf<Xml>(each['Surface']))) {
    const source = surface['SourceData'] as Xml | undefined;
    for (const [group, item, isRing] of [
      ['Breaklines', 'Breakline', false],
      ['Boundaries', 'Boundary', true],
    ] as const)
      // prettier-ignore
      for (const line of listOf<Xml>(source?.[group]).flatMap((each) => listOf<Xml>(each?.[item])))
        put(pointList(line, fileName), codeOf(line), isRing);
  }
  for (const feature of listOf<Xml>(root['PlanFeatures']).flatMap((each) => listOf<Xml>(each?.['PlanFeature'])))
    for (const geometry of listOf<Xml>(feature['CoordGeom']))
      put(coordGeomPlaces(elementsOf(geometry, fileName), tolerance), codeOf(feature));
  for (const alignment of listOf<Xml>(root['Alignments']).flatMap((each) => listOf<Xml>(each?.['Alignment'])))
    put(placesOfAlignment(alignment, fileName, tolerance), codeOf(alignment));
  if (lines.length === 0)
    throw new FormatError('no-lines', {
      what: `${fileName} holds no breaklines, boundaries, plan features or alignments.`,
      fix: 'Save the lines with it.',
    });
  return lines;
}

/** A name without the number that tells lines of one code apart. */
function codeOf(element: Xml): string {
  return String(element['@_name'] ?? '').replace(/\s+\d+$/, '');
}

function pointList(element: Xml, fileName: string): CurvePlace[] {
  const [in3D, in2D] = [numbersOf(element['PntList3D'], fileName), numbersOf(element['PntList2D'], fileName)];
  const [numbers, width] = in3D.length > 0 ? [in3D, 3] : [in2D, 2];
  return Array.from({ length: Math.floor(numbers.length / width) }, (_, k) => ({
    x: numbers[k * width + 1]!,
    y: numbers[k * width]!,
    z: width === 3 ? numbers[k * width + 2]! : NaN,
  }));
}

function numbersOf(of: unknown, fileName: string): number[] {
  const text = typeof of === 'string' ? of : (of as { '#text'?: unknown } | undefined)?.['#text'];
  if (typeof text !== 'string' || text.trim() === '') return [];
  return text
    .trim()
    .split(/\s+/)
    .map((word) => {
      const value = Number(word);
      if (!Number.isFinite(value))
        throw new FormatError('coordinate-wrong', {
          what: `In ${fileName} “${word.slice(0, 40)}” stands where a coordinate should.`,
          fix: 'Save it again from its source.',
        });
      return value;
    });
}

/** LandXML gives northing, easting, elevation. */
function placeOf(of: unknown, fileName: string): CurvePlace {
  const [y, x, z] = numbersOf(of, fileName);
  if (x === undefined || y === undefined)
    throw new FormatError('coordinate-wrong', {
      what: `In ${fileName} a piece of a line lacks an end.`,
      fix: 'Give places as northing and easting; places by point name cannot be read.',
    });
  return { x, y, z: z ?? NaN };
}

function elementsOf(geometry: Xml, fileName: string): GeometryElement[] {
  const place = (of: unknown): CurvePlace => placeOf(of, fileName);
  const elements = PIECES.flatMap((kind) =>
    listOf<Xml>(geometry[kind]).map((piece): GeometryElement => {
      const isClockwise = piece['@_rot'] === 'cw';
      const [start, end] = [place(piece['Start']), place(piece['End'])];
      if (kind === 'Line') return { kind: 'line', start, end };
      if (kind === 'IrregularLine') return { kind: 'list', places: pointList(piece, fileName) };
      if (kind === 'Curve') return { kind: 'curve', start, centre: place(piece['Center']), end, isClockwise };
      const radius = (of: unknown): number => (of === undefined || of === 'INF' ? Infinity : Number(of));
      return {
        kind: 'spiral',
        ...{ start, tangent: place(piece['PI']), end, length: Number(piece['@_length']), isClockwise },
        ...{ radiusStart: radius(piece['@_radiusStart']), radiusEnd: radius(piece['@_radiusEnd']) },
      };
    }),
  );
  return inOrder(elements);
}

/** Pieces as they follow each other: the end of one is the start of the next. */
function inOrder(elements: readonly GeometryElement[]): GeometryElement[] {
  const ends = (element: GeometryElement): [CurvePlace | undefined, CurvePlace | undefined] =>
    element.kind === 'list' ? [element.places[0], element.places.at(-1)] : [element.start, element.end];
  const key = (at: CurvePlace | undefined): string => (at ? `${at.x.toFixed(3)} ${at.y.toFixed(3)}` : '');
  const byStart = new Map(elements.map((element) => [key(ends(element)[0]), element]));
  const isEnd = new Set(elements.map((element) => key(ends(element)[1])));
  const out: GeometryElement[] = [];
  const used = new Set<GeometryElement>();
  let next: GeometryElement | undefined = elements.find((element) => !isEnd.has(key(ends(element)[0]))) ?? elements[0];
  while (next && !used.has(next)) {
    used.add(next);
    out.push(next);
    next = byStart.get(key(ends(next)[1]));
  }
  return [...out, ...elements.filter((element) => !used.has(element))];
}

function placesOfAlignment(alignment: Xml, fileName: string, tolerance: number): CurvePlace[] {
  const geometry = listOf<Xml>(alignment['CoordGeom'])[0];
  if (!geometry) return [];
  const places = coordGeomPlaces(elementsOf(geometry, fileName), tolerance);
  const profile = listOf<Xml>(alignment['Profile']).flatMap((each) => listOf<Xml>(each['ProfAlign']))[0];
  if (!profile) return places;
  const vertices = (['PVI', 'ParaCurve', 'CircCurve'] as const)
    .flatMap((kind) =>
      listOf<unknown>(profile[kind]).map((of): ProfileVertex => {
        const [station, elevation] = numbersOf(of, fileName);
        const length = kind === 'PVI' ? 0 : Number((of as Xml)['@_length'] ?? 0);
        return { station: station ?? NaN, elevation: elevation ?? NaN, length: Number.isFinite(length) ? length : 0 };
      }),
    )
    .filter(({ station, elevation }) => Number.isFinite(station + elevation))
    .sort((a, b) => a.station - b.station);
  const begin = Number(alignment['@_staStart'] ?? 0) || 0;
  let station = begin;
  return places.map((place, k) => {
    if (k > 0) station += Math.hypot(place.x - places[k - 1]!.x, place.y - places[k - 1]!.y);
    return { ...place, z: alignmentElevation(vertices, station) };
  });
}
