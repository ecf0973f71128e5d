import { newPointBatch, type PointBatch, type Quantisation } from '../cloud/index.js';
import { findGround } from './find-ground.js';
import { proposeGround, type GroundEvidence } from './ground-proposal.js';

const QUANTISATION: Quantisation = { scale: [0.001, 0.001, 0.001], offset: [0, 0, 0] };
const NO_COLUMNS = { gpsTime: false, rgb: false, nearInfrared: false, wavePacket: false, extraBytesLength: 0 };

/** Points in millimetres, with nothing but places and classes. */
export const bareBatch = (count: number): PointBatch => newPointBatch(count, NO_COLUMNS);

/** Classes that finding ground gives a square of land with the settings proposed for it; it is not told the true ones. */
export function proposedGround(
  cloud: PointBatch,
  side: number,
  { perSquareMetre, ...seen }: Pick<GroundEvidence, 'steepSlope' | 'manyReturns'> & { readonly perSquareMetre: number },
): Uint8Array {
  const { settings } = proposeGround(
    { ...seen, spacing: 1 / Math.sqrt(perSquareMetre), hasColour: false, noise: 0.01, stripDisagreement: undefined },
    'metre',
  );
  const cells = Math.ceil(side / settings.cell) + 1;
  const frame = { east: 0, north: 0, cell: settings.cell, columns: cells, rows: cells };
  const given = { ...cloud, classification: new Uint8Array(cloud.count).fill(1) };
  return findGround(given, QUANTISATION, frame, settings, new Uint8Array(256).fill(1));
}
