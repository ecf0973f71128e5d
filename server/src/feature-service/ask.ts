import { PamperoError } from '@pampero/core/task';
import { jsonIn, Unreachable, webAddress, type Outside } from '../network/outside.js';

/** One answer of a service may take so long and be so large. */
const [PATIENCE_MS, LARGEST] = [20_000, 50_000_000];

/** A service that does not answer as it should, in words that say which address and why. */
export function serviceError(code: string, address: string, why: string, fix: string): PamperoError {
  return new PamperoError(code, { what: `${address} ${why}`, fix });
}

/** The address of a service as it was typed. @throws PamperoError `service-silent` */
export function serviceAddress(typed: string): URL {
  try {
    return webAddress(typed);
  } catch (error) {
    throw serviceError('service-silent', typed, `${(error as Unreachable).why}.`, 'Give one like https://maps.example.org/parcels.'); // prettier-ignore
  }
}

/**
 * Asks a service for JSON.
 * @throws PamperoError `service-silent` where nothing comes, `service-refuses` with its status, `service-rubbish` where it is no JSON or too much of it
 */
export async function askJson(
  outside: Outside,
  address: URL,
  signal: AbortSignal,
  patience = PATIENCE_MS,
): Promise<{ json: unknown; crs: string | undefined }> {
  const shown = `${address.origin}${address.pathname}`;
  const init = { headers: { accept: 'application/geo+json, application/json' } };
  const answer = await outside.fetch(address, init, signal, { patience, largest: LARGEST }).catch((error: unknown) => {
    if (!(error instanceof Unreachable)) throw error;
    throw serviceError('service-silent', shown, `${error.why}.`, 'Check the address, try again later, or ask for less land.'); // prettier-ignore
  });
  const { status, headers, text } = answer;
  if (status < 200 || status > 299)
    throw serviceError(
      'service-refuses',
      shown,
      `answers with status ${status}.`,
      status === 404
        ? 'Check the address: give that of the service’s landing page.'
        : 'Ask whoever runs the service, or try again later.',
    );
  const json = jsonIn(text);
  if (json === undefined)
    throw serviceError(
      'service-rubbish',
      shown,
      'answers with something that is not JSON.',
      'Check that the address is that of a service by OGC API – Features, and not of a page about it.',
    );
  return { json, crs: headers.get('content-crs')?.replace(/[<>]/g, '') };
}
