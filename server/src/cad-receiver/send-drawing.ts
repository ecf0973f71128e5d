import { openAsBlob } from 'node:fs';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { PamperoError } from '@pampero/core/task';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { jsonIn, Unreachable, webAddress, type Answer, type Outside } from '../network/outside.js';
import { refusalSchema, refusedDrawing, understoodSchema, type Understood } from './understood.js';

const [PATIENCE_MS, LARGEST] = [120_000, 5_000_000];

/**
 * Sends a file to a drawing program and gives what it understood.
 * @throws PamperoError `cad-silent`, `cad-refuses` with its own words, `cad-rubbish`
 */
export async function sendDrawing(
  outside: Outside,
  address: string,
  fileName: string,
  path: string,
  signal: AbortSignal,
  patience = PATIENCE_MS,
): Promise<Understood> {
  const { status, text } = await put().catch((error: unknown) => {
    if (!(error instanceof Unreachable)) throw error;
    throw new PamperoError('cad-silent', {
      what: `The drawing program at ${address} ${error.why}.`,
      fix: 'Check that it runs and that the address is right.',
    });
  });
  const json = jsonIn(text);
  if (status < 200 || status > 299) {
    const refusal = refusalSchema.safeParse(json);
    throw refusedDrawing(fileName, refusal.success ? refusal.data.error : `status ${status}.`);
  }
  const understood = understoodSchema.safeParse(json);
  if (!understood.success)
    throw new PamperoError('cad-rubbish', {
      what: `What answers at ${address} is no program that says what it understood of a drawing.`,
      fix: 'Check the address.',
    });
  return understood.data;

  async function put(): Promise<Answer> {
    const url = webAddress(address);
    url.pathname = `${url.pathname.replace(/\/$/, '')}/drawings/${encodeURIComponent(fileName)}`;
    return outside.fetch(url, { method: 'PUT', body: await openAsBlob(path) }, signal, { patience, largest: LARGEST });
  }
}

/** What is known of a file that was sent. */
export interface Sent {
  readonly unit: LengthUnit;
  readonly triangles?: number;
  readonly lines?: number;
  /** Where the job lies: what is far from it was read in another unit, or with its axes exchanged. */
  readonly job: { readonly min: readonly number[]; readonly max: readonly number[] };
}

/** Where what was understood differs from what was sent, in words; none where all is well. */
export function differences({ unit, layers, surfaces, extent }: Understood, sent: Sent): string[] {
  const out: string[] = [];
  const name = (id: LengthUnit): string => lengthUnits[id].name;
  if (unit === undefined) out.push(`it found no unit; the job is in ${name(sent.unit)}`);
  else if (unit !== sent.unit) out.push(`it read ${name(unit)}; the job is in ${name(sent.unit)}`);
  const sum = (of: readonly number[]): number => of.reduce((a, b) => a + b, 0);
  const triangles = sum(surfaces.map((surface) => surface.triangles)) + sum(layers.map(({ faces }) => faces));
  if (sent.triangles !== undefined && triangles !== sent.triangles)
    out.push(`it read ${formatCount(triangles)} triangles of ${formatCount(sent.triangles)}`);
  const lines = sum(layers.map((layer) => layer.lines));
  if (sent.lines !== undefined && lines < sent.lines)
    out.push(`it read ${formatCount(lines)} lines of ${formatCount(sent.lines)}`);
  if (!extent) out.push('it found nothing in it');
  else {
    const far = [0, 1].some((axis) => {
      const reach = Math.max(100, sent.job.max[axis]! - sent.job.min[axis]!);
      return (
        extent.min[axis]! < sent.job.min[axis]! - 10 * reach || extent.max[axis]! > sent.job.max[axis]! + 10 * reach
      );
    });
    if (far)
      out.push(
        `it found it about ${formatNumber(extent.min[0], 0)} E ${formatNumber(extent.min[1], 0)} N; the job lies about ${formatNumber(sent.job.min[0]!, 0)} E ${formatNumber(sent.job.min[1]!, 0)} N`,
      );
  }
  return out;
}

/** What was understood, in one line. */
export function understoodInWords({ format, unit, layers, surfaces }: Understood): string {
  const parts = [
    format,
    unit ? lengthUnits[unit].name : 'no unit',
    ...surfaces.map(({ name, triangles }) => `surface ${name} with ${formatCount(triangles)} triangles`),
    ...layers.map(
      ({ name, lines, faces, points }) =>
      `${name}: ${[faces && `${formatCount(faces)} faces`, lines && `${formatCount(lines)} lines`, points && `${formatCount(points)} points`].filter(Boolean).join(', ') || 'texts'}`, // prettier-ignore
    ),
  ];
  return parts.slice(0, 14).join('; ') + (parts.length > 14 ? '; …' : '');
}
