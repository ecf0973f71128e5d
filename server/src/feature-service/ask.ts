import { PamperoError } from '@pampero/core/task';

/** One answer of a service may take so long and be so large. */
const [PATIENCE_MS, LARGEST] = [20_000, 50_000_000];

/** A service that does not answer as it should, in words that say which address and why. */
export function serviceError(code: string, address: string, why: string, fix: string): PamperoError {
  return new PamperoError(code, { what: `${address} ${why}`, fix });
}

/**
 * Asks a service for JSON.
 * @throws PamperoError `service-silent` where nothing comes, `service-refuses` with its status, `service-rubbish` where it is no JSON or too much of it
 */
export async function askJson(
  address: URL,
  signal: AbortSignal,
  patience = PATIENCE_MS,
): Promise<{ json: unknown; crs: string | undefined }> {
  const shown = `${address.origin}${address.pathname}`;
  const deadline = AbortSignal.timeout(patience);
  let response: Response;
  try {
    response = await fetch(address, {
      headers: { accept: 'application/geo+json, application/json' },
      signal: AbortSignal.any([signal, deadline]),
      redirect: 'follow',
    });
  } catch (error) {
    if (signal.aborted) throw error;
    if (deadline.aborted)
      throw serviceError(
        'service-silent',
        shown,
        `has not answered in ${Math.round(patience / 1000)} s.`,
        'Try again later, or ask for less land.',
      );
    throw serviceError(
      'service-silent',
      shown,
      `cannot be reached (${reasonOf(error)}).`,
      'Check the address, and whether this machine reaches the network.',
    );
  }
  if (!response.ok)
    throw serviceError(
      'service-refuses',
      shown,
      `answers with status ${response.status}.`,
      response.status === 404
        ? 'Check the address: give that of the service’s landing page.'
        : 'Ask whoever runs the service, or try again later.',
    );
  const text = await readText(response, shown, signal, deadline);
  try {
    return { json: JSON.parse(text) as unknown, crs: response.headers.get('content-crs')?.replace(/[<>]/g, '') };
  } catch {
    throw serviceError(
      'service-rubbish',
      shown,
      'answers with something that is not JSON.',
      'Check that the address is that of a service by OGC API – Features, and not of a page about it.',
    );
  }
}

async function readText(
  response: Response,
  shown: string,
  signal: AbortSignal,
  deadline: AbortSignal,
): Promise<string> {
  const parts: Uint8Array[] = [];
  let size = 0;
  try {
    const reader = response.body?.getReader();
    for (let part = await reader?.read(); part && !part.done; part = await reader!.read()) {
      size += part.value.length;
      if (size > LARGEST) {
        await reader!.cancel();
        break;
      }
      parts.push(part.value);
    }
  } catch (error) {
    if (signal.aborted) throw error;
    const why = deadline.aborted
      ? 'stopped in the middle of an answer.'
      : `broke off in the middle of an answer (${reasonOf(error)}).`;
    throw serviceError('service-silent', shown, why, 'Try again later, or ask for less land.');
  }
  if (size > LARGEST)
    throw serviceError(
      'service-rubbish',
      shown,
      `answers with more than ${LARGEST / 1e6} MB at once.`,
      'Ask for less land.',
    );
  return Buffer.concat(parts).toString('utf8');
}

/** What the network says, without the words of the library. */
function reasonOf(error: unknown): string {
  const cause = (error as { cause?: { code?: string; message?: string } }).cause;
  return cause?.code ?? cause?.message ?? (error as Error).message;
}
