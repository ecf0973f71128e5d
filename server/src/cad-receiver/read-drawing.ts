import { FormatError } from '@pampero/core/formats';
import { DXF_UNITS, readDxfEntities } from '@pampero/core/formats/dxf';
import type { LengthUnit } from '@pampero/core/geodesy';
import { LANDXML_UNITS } from '../files/landxml-document.js';
import { readSurfaceFile } from '../files/surface-files.js';
import type { Understood } from './understood.js';

type Layer = Understood['layers'][number];

/** What a drawing says, read as any other program would that knows nothing of the job: unit, layers with counts, surfaces, extent. */
export function readDrawing(text: string, fileName: string): Understood {
  return /^\s*<\?xml|^\s*<LandXML/.test(text.slice(0, 2000)) ? readLandXml(text, fileName) : readDxf(text, fileName);
}

class Extent {
  private readonly min: [number, number, number] = [Infinity, Infinity, Infinity];
  private readonly max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  add(...place: readonly [number, number, number]): void {
    place.forEach((value, axis) => {
      this.min[axis] = Math.min(this.min[axis]!, value);
      this.max[axis] = Math.max(this.max[axis]!, value);
    });
  }
  get(): Pick<Understood, 'extent'> {
    return this.min[0] <= this.max[0] ? { extent: { min: this.min, max: this.max } } : {};
  }
}

function readDxf(text: string, fileName: string): Understood {
  const stated = Number(/\$INSUNITS\s+70\s+(\d+)/.exec(text.slice(0, 20_000))?.[1]);
  const unit = (Object.keys(DXF_UNITS) as LengthUnit[]).find((id) => DXF_UNITS[id] === stated);
  const layers = new Map<string, Layer>();
  const extent = new Extent();
  for (const { type, layer: name, vertices } of readDxfEntities(text, fileName)) {
    let layer = layers.get(name);
    if (!layer) layers.set(name, (layer = { name, lines: 0, faces: 0, points: 0, texts: 0 }));
    if (type === '3DFACE') layer.faces++;
    else if (vertices.length > 1) layer.lines++;
    else if (vertices.length === 1) layer.points++;
    for (const { x, y, z } of vertices) extent.add(x, y, Number.isFinite(z) ? z : 0);
  }
  return {
    fileName,
    format: 'DXF',
    ...(unit && { unit }),
    layers: [...layers.values()],
    surfaces: [],
    ...extent.get(),
  };
}

function readLandXml(text: string, fileName: string): Understood {
  const linear = /linearUnit\s*=\s*"([^"]+)"/.exec(text.slice(0, 20_000))?.[1];
  const unit = linear === undefined ? undefined : LANDXML_UNITS[linear];
  if (!unit)
    throw new FormatError('unit-differs', {
      what: `${fileName} is in ${linear ?? 'no unit'}, which this program does not know.`,
      fix: 'Give metres or feet.',
    });
  const extent = new Extent();
  const surfaces = readSurfaceFile(text, fileName, unit).map(({ name, tin }) => {
    const { origin, easting, northing, elevation, facets } = tin;
    easting.forEach((e, k) => extent.add(e + origin[0], northing[k]! + origin[1], elevation[k]!));
    return { name, points: easting.length, triangles: facets.length / 3 };
  });
  return { fileName, format: 'LandXML', unit, layers: [], surfaces, ...extent.get() };
}
