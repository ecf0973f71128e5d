/** Somebody outside cannot be asked; `why` goes on after its name: "has not answered in 20 s". */
export class Unreachable extends Error {
  override readonly name = 'Unreachable';
  constructor(readonly why: string) {
    super(why);
  }
}

/** An address of the web as it was typed. @throws Unreachable */
export function webAddress(typed: string): URL {
  let url: URL;
  try {
    url = new URL(typed);
  } catch {
    throw new Unreachable('is no address');
  }
  if (url.protocol !== 'http:' && url.protocol !== 'https:') throw new Unreachable('is no address of the web');
  return url;
}

/**
 * Asks somebody outside and reads the answer, who may be slow, silent or endless.
 * @param patience - milliseconds for all of it
 * @param largest - bytes of an answer
 * @throws Unreachable; what was thrown when `signal` fires goes on
 */
export async function patientFetch(
  url: URL,
  init: RequestInit,
  signal: AbortSignal,
  { patience, largest }: { readonly patience: number; readonly largest: number },
): Promise<{ readonly status: number; readonly headers: Headers; readonly text: string }> {
  const deadline = AbortSignal.timeout(patience);
  let isBegun = false;
  try {
    const response = await fetch(url, { ...init, signal: AbortSignal.any([signal, deadline]) });
    isBegun = true;
    const parts: Uint8Array[] = [];
    let size = 0;
    const reader = response.body?.getReader();
    for (let part = await reader?.read(); part && !part.done; part = await reader!.read()) {
      size += part.value.length;
      if (size > largest) {
        await reader!.cancel();
        throw new Unreachable(`answers with more than ${largest / 1e6} MB at once`);
      }
      parts.push(part.value);
    }
    return { status: response.status, headers: response.headers, text: Buffer.concat(parts).toString('utf8') };
  } catch (error) {
    if (signal.aborted || error instanceof Unreachable) throw error;
    if (deadline.aborted)
      throw new Unreachable(
        isBegun ? 'stopped in the middle of an answer' : `has not answered in ${Math.round(patience / 1000)} s`,
      );
    const reason = reasonOf(error);
    throw new Unreachable(
      isBegun ? `broke off in the middle of an answer (${reason})` : `cannot be reached (${reason})`,
    );
  }
}

/** What the network says, without the words of the library. */
function reasonOf(error: unknown): string {
  const { cause } = error as { cause?: { code?: string; message?: string } };
  return cause?.code ?? cause?.message ?? (error as Error).message;
}

/** JSON, or undefined where a text is none. */
export function jsonIn(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    return undefined;
  }
}
