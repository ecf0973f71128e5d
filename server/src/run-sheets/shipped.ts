import { RUN_SHEET_FORMAT, RUN_SHEET_VERSION, type RunSheetInput } from '@pampero/contract';

const head = { format: RUN_SHEET_FORMAT, version: RUN_SHEET_VERSION } as const;
const imported = [{ from: 'import' }];
const surface = { from: 'surface' };

type Step = NonNullable<RunSheetInput['steps']>[number];

// What sheets for lidar have in common.
const importLidar: Step = { kind: 'work', key: 'import', operation: 'import-cloud', file: 'lidar' };
const findLow: Step = { kind: 'work', key: 'low', operation: 'find-low', parameters: { clouds: imported } };
const findGround: Step = {
  kind: 'work',
  key: 'ground',
  operation: 'find-ground',
  each: 'import',
  isProposed: true,
  parameters: { clouds: imported },
};
const buildSurface: Step = {
  kind: 'work',
  key: 'surface',
  operation: 'build-surface',
  parameters: { clouds: imported },
};
const drawContours: Step = {
  kind: 'work',
  key: 'contours',
  operation: 'draw-contours',
  parameters: { surfaceId: surface, interval: '0.5 m' },
};
const makeGrid: Step = {
  kind: 'work',
  key: 'grid',
  operation: 'make-grid',
  parameters: { surfaceId: surface, cell: '1 m' },
};
const nothingStale: Step = { kind: 'gate', key: 'fresh', gate: { rule: 'nothing-stale' } };
const ofLidar: NonNullable<RunSheetInput['outputs']> = [
  { of: 'import', format: 'laz' },
  { of: 'surface', format: 'landxml' },
  { of: 'contours', format: 'dxf' },
  { of: 'grid', format: 'tif' },
];

/** From a lidar file to contours; stops where the check points do not agree. */
const lidar: RunSheetInput = {
  ...head,
  name: 'Lidar, from file to contours',
  notes: 'Noise, ground, objects, surface, accuracy and contours. It stops if check points disagree with the surface.',
  places: [
    { key: 'lidar', label: 'Lidar files', kind: 'files', help: 'LAS, LAZ, COPC or E57; each becomes a cloud.' },
    {
      key: 'checks',
      label: 'Check points',
      kind: 'files',
      help: 'Lists of number, northing, easting, elevation, code.',
    },
  ],
  steps: [
    importLidar,
    { kind: 'work', key: 'check-points', operation: 'import-control', file: 'checks', parameters: { role: 'check' } },
    findLow,
    findGround,
    { kind: 'work', key: 'objects', operation: 'find-objects', parameters: { clouds: imported } },
    buildSurface,
    { kind: 'work', key: 'accuracy', operation: 'state-accuracy', parameters: { surfaceId: surface } },
    {
      kind: 'gate',
      key: 'accuracy-holds',
      gate: { rule: 'figure', of: 'accuracy', figure: 'RMSEz', must: 'at-most', limit: '10 cm' },
    },
    drawContours,
    makeGrid,
    nothingStale,
  ],
  outputs: [...ofLidar, { of: 'accuracy', format: 'pdf' }],
};

/** From a cloud made of photographs: worked on thinned, classes carried back to all points. */
const photographs: RunSheetInput = {
  ...head,
  name: 'Photographs, from cloud to contours',
  notes:
    'For dense clouds from photographs, with colours and a confidence for each point. The work is done on a thinned copy; its classes go back to all points. It stops for a look at the ground.',
  places: [
    {
      key: 'dense',
      label: 'Dense clouds',
      kind: 'files',
      help: 'PLY, LAS or text. Moved into the job’s coordinate system where the file says its own.',
    },
  ],
  steps: [
    { kind: 'work', key: 'import', operation: 'import-cloud', file: 'dense' },
    { kind: 'work', key: 'unreliable', operation: 'find-unreliable', parameters: { clouds: imported } },
    {
      kind: 'work',
      key: 'isolated',
      operation: 'find-isolated',
      parameters: { clouds: imported, radius: { spacings: 6 } },
    },
    {
      kind: 'work',
      key: 'thin',
      title: 'Thin to a working copy',
      operation: 'thin-cloud',
      each: 'import',
      parameters: {
        clouds: imported,
        classes: [0, 1],
        method: 'spacing',
        distance: { spacings: 2 },
        outcome: 'new-cloud',
      },
    },
    {
      kind: 'work',
      key: 'ground',
      operation: 'find-ground',
      each: 'thin',
      isProposed: true,
      parameters: { clouds: [{ from: 'thin' }], trustGreenLess: true },
    },
    {
      kind: 'work',
      key: 'objects',
      operation: 'find-objects',
      parameters: { clouds: [{ from: 'thin' }], wires: false },
    },
    {
      kind: 'gate',
      key: 'look',
      gate: { rule: 'look', question: 'Is the ground right under trees and beside walls?' },
    },
    {
      kind: 'work',
      key: 'transfer',
      operation: 'transfer-classes',
      each: 'import',
      parameters: { fromId: { from: 'thin' }, clouds: imported, distance: { spacings: 6 } },
    },
    buildSurface,
    drawContours,
    {
      kind: 'work',
      key: 'key-points',
      operation: 'thin-cloud',
      parameters: { clouds: imported, method: 'key-points', tolerance: '0.1 m' },
    },
    { kind: 'work', key: 'spots', operation: 'number-points', parameters: { clouds: imported } },
  ],
  outputs: [
    { of: 'import', format: 'laz' },
    { of: 'contours', format: 'dxf' },
    { of: 'spots', format: 'csv-pnezd' },
  ],
};

/** For each square of a large site: what can be decided without anyone looking, and nothing that hangs on single points. */
const squares: RunSheetInput = {
  ...head,
  name: 'Square of a site, to contours and grid',
  notes:
    'For large sites that are divided into squares. Noise, ground, surface, contours and grid, the same on both sides of every edge.',
  places: [
    { key: 'lidar', label: 'Lidar files', kind: 'files', help: 'LAS, LAZ, COPC or E57, divided among the squares.' },
  ],
  steps: [importLidar, findLow, findGround, buildSurface, drawContours, makeGrid, nothingStale],
  outputs: ofLidar,
};

/** The run sheets that come with Pampero, by id. */
export const shippedSheets: Readonly<Record<string, RunSheetInput>> = {
  'lidar-to-contours': lidar,
  'photographs-to-contours': photographs,
  'square-to-contours': squares,
};
