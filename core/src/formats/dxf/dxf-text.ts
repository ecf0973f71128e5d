/** Group code and value lines of a DXF file (AutoCAD Release 12 reference, "ASCII DXF files"), R12 being read everywhere. */
export type Group = readonly [code: number, value: string | number];

export function dxfText(groups: Iterable<Group>): string {
  let text = '';
  for (const [code, value] of groups) text += `${code}\n${value}\n`;
  return text;
}

export interface DxfLayer {
  readonly name: string;
  /** Colour index, 1-255. */
  readonly colour: number;
}

/** The header and tables an R12 file opens with: extents and one entry a layer. */
export function* openingSections(
  layers: readonly DxfLayer[],
  extent: { readonly min: readonly [number, number, number]; readonly max: readonly [number, number, number] },
): Generator<Group> {
  yield* [
    [0, 'SECTION'],
    [2, 'HEADER'],
    [9, '$ACADVER'],
    [1, 'AC1009'],
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
    [70, 1],
    [0, 'LTYPE'],
    [2, 'CONTINUOUS'],
    [70, 0],
    [3, 'Solid line'],
    [72, 65],
    [73, 0],
    [40, 0],
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
      [6, 'CONTINUOUS'],
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
