import type { LengthUnit } from '../../geodesy/index.js';

/** Group code and value lines of an ASCII DXF file, as the public DXF reference of release 12 (AC1009) lays them out: it is read everywhere. */
export type Group = readonly [code: number, value: string | number];

export function dxfText(groups: Iterable<Group>): string {
  let text = '';
  for (const [code, value] of groups) text += `${code}\n${typeof value === 'string' ? oneLine(value) : value}\n`;
  return text;
}

/** A value is a line: a break within it would be the next group. */
function oneLine(text: string): string {
  return text.replace(/[\p{Cc}\u2028\u2029]+/gu, ' ');
}

/** Comments before the drawing (group 999, the public DXF reference): readers pass over them. */
export const dxfComments = (lines: readonly string[]): string => dxfText(lines.map((line): Group => [999, line]));

export interface DxfLayer {
  readonly name: string;
  /** Colour index, 1-255. */
  readonly colour: number;
  readonly isDashed?: boolean;
}

const POLYLINE_CLOSED = 1;
const POLYLINE_3D = 8;
const VERTEX_3D = 32;

/** A polyline in space; coordinates in full, to a tenth of a millimetre of a metre job. */
export function polyline3d(
  layer: string,
  corners: Iterable<readonly [easting: number, northing: number, elevation: number]>,
  isClosed: boolean,
): string {
  layer = oneLine(layer);
  let text = `0\nPOLYLINE\n8\n${layer}\n66\n1\n10\n0\n20\n0\n30\n0\n70\n${POLYLINE_3D | (isClosed ? POLYLINE_CLOSED : 0)}\n`;
  for (const [e, n, z] of corners)
    text += `0\nVERTEX\n8\n${layer}\n10\n${e.toFixed(4)}\n20\n${n.toFixed(4)}\n30\n${z.toFixed(4)}\n70\n${VERTEX_3D}\n`;
  return `${text}0\nSEQEND\n8\n${layer}\n`;
}

/** `$INSUNITS` of each unit that a job can have. */
export const DXF_UNITS = { metre: 6, 'international-foot': 2, 'us-survey-foot': 21 } as const satisfies Record<
  LengthUnit,
  number
>;

/**
 * The header and tables an R12 file opens with: extents, the unit and one entry a layer. The unit is a variable of later releases; readers of this one pass
 * over names that they do not know, and all others would have to guess it.
 */
export function* openingSections(
  layers: readonly DxfLayer[],
  extent: { readonly min: readonly [number, number, number]; readonly max: readonly [number, number, number] },
  unit: LengthUnit,
): Generator<Group> {
  yield* [
    [0, 'SECTION'],
    [2, 'HEADER'],
    [9, '$ACADVER'],
    [1, 'AC1009'],
    [9, '$INSUNITS'],
    [70, DXF_UNITS[unit]],
  ] as Group[];
  for (const [name, [x, y, z]] of [
    ['$EXTMIN', extent.min],
    ['$EXTMAX', extent.max],
  ] as const)
    yield* [
      [9, name],
      [10, x],
      [20, y],
      [30, z],
    ] as Group[];
  yield* [
    [0, 'ENDSEC'],
    [0, 'SECTION'],
    [2, 'TABLES'],
  ] as Group[];
  yield* [
    [0, 'TABLE'],
    [2, 'LTYPE'],
    [70, 2],
    [0, 'LTYPE'],
    [2, 'CONTINUOUS'],
    [70, 0],
    [3, 'Solid line'],
    [72, 65],
    [73, 0],
    [40, 0],
    [0, 'LTYPE'],
    [2, 'DASHED'],
    [70, 0],
    [3, '__ __ __ __'],
    [72, 65],
    [73, 2],
    [40, 4],
    [49, 2.5],
    [49, -1.5],
    [0, 'ENDTAB'],
  ] as Group[];
  yield* [
    [0, 'TABLE'],
    [2, 'LAYER'],
    [70, layers.length],
  ] as Group[];
  for (const layer of layers)
    yield* [
      [0, 'LAYER'],
      [2, layer.name],
      [70, 0],
      [62, layer.colour],
      [6, layer.isDashed ? 'DASHED' : 'CONTINUOUS'],
    ] as Group[];
  yield* [
    [0, 'ENDTAB'],
    [0, 'ENDSEC'],
    [0, 'SECTION'],
    [2, 'ENTITIES'],
  ] as Group[];
}

export const CLOSING_SECTIONS: readonly Group[] = [
  [0, 'ENDSEC'],
  [0, 'EOF'],
];
