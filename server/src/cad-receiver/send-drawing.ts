import { openAsBlob } from 'node:fs';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { PamperoError } from '@pampero/core/task';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { refusalSchema, understoodSchema, type Understood } from './understood.js';

const PATIENCE_MS = 120_000;

/**
 * Sends a file to a drawing program and gives what it understood.
 * @throws PamperoError `cad-silent`, `cad-refuses` with its own words, `cad-rubbish`
 */
export async function sendDrawing(
  address: string,
  fileName: string,
  path: string,
  signal: AbortSignal,
  patience = PATIENCE_MS,
): Promise<Understood> {
  const silent = (why: string): PamperoError =>
    new PamperoError('cad-silent', {
      what: `The drawing program at ${address} ${why}.`,
      fix: 'Check that it runs and that the address is right.',
    });
  let url: URL;
  try {
    url = new URL(address);
  } catch {
    throw silent('has no address of the web');
  }
  if (url.protocol !== 'http:' && url.protocol !== 'https:') throw silent('has no address of the web');
  url.pathname = `${url.pathname.replace(/\/$/, '')}/drawings/${encodeURIComponent(fileName)}`;
  const deadline = AbortSignal.timeout(patience);
  let status: number;
  let text: string;
  try {
    const response = await fetch(url, {
      method: 'PUT',
      body: await openAsBlob(path),
      signal: AbortSignal.any([signal, deadline]),
    });
    status = response.status;
    text = await response.text();
  } catch (error) {
    if (signal.aborted) throw error;
    const { cause } = error as { cause?: { code?: string } };
    throw silent(
      deadline.aborted
        ? `has not answered in ${Math.round(patience / 1000)} s`
        : `cannot be reached (${cause?.code ?? 'no answer'})`,
    );
  }
  const json = parsed(text);
  if (status < 200 || status > 299) {
    const refusal = refusalSchema.safeParse(json);
    throw new PamperoError('cad-refuses', {
      what: refusal.success
        ? `${fileName} was not taken: ${refusal.data.error}`
        : `${fileName} was not taken: status ${status}.`,
      fix: 'Put that right there, and send it again.',
    });
  }
  const understood = understoodSchema.safeParse(json);
  if (!understood.success)
    throw new PamperoError('cad-rubbish', {
      what: `What answers at ${address} is no program that says what it understood of a drawing.`,
      fix: 'Check the address.',
    });
  return understood.data;
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    return undefined;
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
