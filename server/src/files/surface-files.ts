import { FormatError } from '@pampero/core/formats';
import { readAsciiGrid } from '@pampero/core/formats/ascii-grid';
import { readDxfEntities } from '@pampero/core/formats/dxf';
import type { LengthUnit } from '@pampero/core/geodesy';
import { gridToTin, meshToTin, type MeshReport, type Tin } from '@pampero/core/terrain';
import { listOf, openLandXml } from './landxml-document.js';

export interface ReadSurface {
  readonly name: string;
  readonly tin: Tin;
  readonly report: MeshReport;
}

const stem = (fileName: string): string => fileName.replace(/\.[^.]+$/, '');

/** Surfaces of a LandXML, DXF or ASCII grid text, as they are there; the file's ending tells which it is. */
export function readSurfaceFile(text: string, fileName: string, unit: LengthUnit): ReadSurface[] {
  const ending = fileName.split('.').at(-1)?.toLowerCase();
  if (ending === 'xml' || ending === 'landxml') return readLandXml(text, fileName, unit);
  if (ending === 'dxf') return [readDxfFaces(text, fileName)];
  if (ending === 'asc' || ending === 'grd' || ending === 'txt') {
    const { values, frame } = readAsciiGrid(text, fileName);
    const tin = gridToTin(values, frame);
    if (tin.facets.length === 0) throw nothing(fileName, 'no four cells beside each other with a value');
    return [{ name: stem(fileName), tin, report: { duplicatesDropped: 0, facetsLeftOut: 0 } }];
  }
  throw new FormatError('not-this-format', {
    what: `${fileName} is not a surface format that can be read.`,
    fix: 'Give LandXML (.xml), DXF with 3D faces (.dxf) or an ASCII grid (.asc).',
  });
}

function nothing(fileName: string, what: string): FormatError {
  return new FormatError('no-surface', {
    what: `${fileName} holds ${what}.`,
    fix: 'Save the surface with its triangles.',
  });
}

/** An element with text: the text alone where it has no attributes, and less where the file is damaged. */
type XmlText =
  string | { readonly '#text'?: string; readonly '@_id'?: string; readonly '@_i'?: string } | null | undefined;

function textOf(element: XmlText): string[] {
  const text = typeof element === 'string' ? element : element?.['#text'];
  return typeof text === 'string' ? text.trim().split(/\s+/) : [];
}

interface XmlSurface {
  readonly '@_name'?: string;
  readonly Definition?: {
    readonly Pnts?: { readonly P?: readonly XmlText[] };
    readonly Faces?: readonly { readonly F?: readonly XmlText[] }[];
  };
}

function readLandXml(text: string, fileName: string, unit: LengthUnit): ReadSurface[] {
  const root = openLandXml(text, fileName, unit, ['Surfaces', 'Surface', 'P', 'F', 'Faces']);
  const surfaces = listOf<{ Surface?: unknown } | null>(root['Surfaces']).flatMap((each) =>
    listOf<XmlSurface | null>(each?.Surface),
  );
  const read = surfaces.flatMap((surface): ReadSurface[] => {
    if (typeof surface !== 'object' || surface === null) return [];
    const points = listOf<XmlText>(surface.Definition?.Pnts?.P);
    const faces = listOf<{ F?: unknown } | null>(surface.Definition?.Faces).flatMap((each) => listOf<XmlText>(each?.F));
    if (points.length === 0 || faces.length === 0) return [];
    const number = new Map<string, number>();
    const columns = { easting: [] as number[], northing: [] as number[], elevation: [] as number[] };
    points.forEach((point, k) => {
      const id = typeof point === 'object' ? point?.['@_id'] : undefined;
      // LandXML gives northing, easting, elevation.
      const [n, e, z] = textOf(point).map(Number);
      if (id === undefined || ![n, e, z].every((value) => Number.isFinite(value)))
        throw new FormatError('coordinate-wrong', {
          what: `In ${fileName} point ${k + 1} of a surface lacks its id or its three coordinates.`,
          fix: 'Save the surface again with all its points.',
        });
      number.set(id, k);
      columns.northing.push(n!);
      columns.easting.push(e!);
      columns.elevation.push(z!);
    });
    const triangles = faces.flatMap((face): [number, number, number][] => {
      // Faces marked i="1" are hidden: the surface has a hole there.
      if (typeof face === 'object' && face?.['@_i'] === '1') return [];
      const corners = textOf(face);
      const of = corners.slice(0, 3).map((id) => number.get(id));
      if (of.length < 3 || of.some((k) => k === undefined))
        throw new FormatError('coordinate-wrong', {
          what: `In ${fileName} the triangle ${corners.join(' ')} refers to a point that is missing.`,
          fix: 'Save the surface again with all its points.',
        });
      return [of as [number, number, number]];
    });
    return [{ name: surface['@_name'] ?? stem(fileName), ...meshToTin(columns, triangles) }];
  });
  if (read.length === 0) throw nothing(fileName, 'no surface with points and triangles');
  return read;
}

function readDxfFaces(text: string, fileName: string): ReadSurface {
  const columns = { easting: [] as number[], northing: [] as number[], elevation: [] as number[] };
  const triangles: [number, number, number][] = [];
  for (const { type, vertices } of readDxfEntities(text, fileName)) {
    if (type !== '3DFACE' || vertices.length < 3) continue;
    const first = columns.easting.length;
    for (const { x, y, z } of vertices) {
      columns.easting.push(x);
      columns.northing.push(y);
      columns.elevation.push(z);
    }
    triangles.push([first, first + 1, first + 2]);
    // A face of four corners is two triangles, unless its last corner is the third again.
    const [third, fourth] = [vertices[2]!, vertices[3]];
    if (fourth && (fourth.x !== third.x || fourth.y !== third.y || fourth.z !== third.z))
      triangles.push([first, first + 2, first + 3]);
  }
  if (triangles.length === 0) throw nothing(fileName, 'no 3D faces');
  return { name: stem(fileName), ...meshToTin(columns, triangles) };
}
