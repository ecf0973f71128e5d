import { lookup as lookUp, type LookupAddress, type LookupOptions } from 'node:dns';
import { request as plainRequest, type IncomingMessage } from 'node:http';
import { request as securedRequest } from 'node:https';
import { BlockList, isIP } from 'node:net';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';

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

/** Addresses that are no places of the open network (the special-purpose registries of IANA, RFC 6890, and multicast). */
const WITHIN = new BlockList();
for (const [address, bits] of [['0.0.0.0', 8], ['10.0.0.0', 8], ['100.64.0.0', 10], ['127.0.0.0', 8], ['169.254.0.0', 16], ['172.16.0.0', 12], ['192.0.0.0', 24], ['192.168.0.0', 16], ['198.18.0.0', 15], ['224.0.0.0', 4], ['240.0.0.0', 4]] as const) WITHIN.addSubnet(address, bits, 'ipv4'); // prettier-ignore
for (const [address, bits] of [['::', 128], ['::1', 128], ['64:ff9b::', 96], ['64:ff9b:1::', 48], ['fc00::', 7], ['fe80::', 10], ['ff00::', 8]] as const) WITHIN.addSubnet(address, bits, 'ipv6'); // prettier-ignore

/** Whether an address lies within a network and not out in the open. */
export function isWithin(address: string): boolean {
  const family = isIP(address);
  return family !== 0 && WITHIN.check(address, family === 6 ? 'ipv6' : 'ipv4');
}

export interface Asked {
  readonly method?: 'GET' | 'PUT';
  readonly headers?: Readonly<Record<string, string>>;
  readonly body?: Blob;
}
export interface Answer {
  readonly status: number;
  readonly headers: Headers;
  readonly text: string;
}
export interface Patience {
  /** Milliseconds for all of it. */
  readonly patience: number;
  /** Bytes of an answer. */
  readonly largest: number;
}

const MOST_REDIRECTS = 5;

/**
 * Those outside, who are asked on behalf of whoever uses the server. A server that others reach asks nobody within its own network for them,
 * unless it was told to: otherwise they would see through it what they cannot reach. What is asked is the very address that was
 * checked, also where a name or an answer leads on to another.
 */
export class Outside {
  /**
   * @param allowed - hosts within the network that may be asked, with their port or for all ports; left out, everybody may
   * @param drawings - the folder that a drawing program watches: the one folder outside that is written to
   */
  constructor(
    private readonly allowed?: readonly string[],
    readonly drawings?: string,
  ) {}

  /**
   * Asks somebody and reads the answer, who may be slow, silent or endless.
   * @throws Unreachable; what was thrown when `signal` fires goes on
   */
  async fetch(url: URL, asked: Asked, signal: AbortSignal, { patience, largest }: Patience): Promise<Answer> {
    const deadline = AbortSignal.timeout(patience);
    const either = AbortSignal.any([signal, deadline]);
    let isBegun = false;
    try {
      let at = url;
      for (let hops = 0; ; hops++) {
        const response = await this.ask(at, asked, either);
        const { statusCode: status = 0, headers } = response;
        if (status >= 300 && status < 400 && headers.location !== undefined) {
          response.destroy();
          if (asked.body !== undefined)
            throw new Unreachable('points elsewhere, and files are sent to no other address');
          if (hops >= MOST_REDIRECTS) throw new Unreachable('leads from one address to the next without an end');
          at = webAddress(new URL(headers.location, at).href);
          continue;
        }
        isBegun = true;
        const text = await readText(response, largest);
        const pairs = Object.entries(headers).map(([name, value]): [string, string] => [name, String(value)]);
        return { status, headers: new Headers(pairs), text };
      }
    } catch (error) {
      if (signal.aborted) throw signal.reason;
      if (error instanceof Unreachable) throw error;
      if (deadline.aborted)
        throw new Unreachable(
          isBegun ? 'stopped in the middle of an answer' : `has not answered in ${Math.round(patience / 1000)} s`,
        );
      const { code, message } = error as { code?: string; message: string };
      throw new Unreachable(
        isBegun
          ? `broke off in the middle of an answer (${code ?? message})`
          : `cannot be reached (${code ?? message})`,
      );
    }
  }

  private async ask(url: URL, { method = 'GET', headers, body }: Asked, signal: AbortSignal): Promise<IncomingMessage> {
    const host = url.hostname.replace(/^\[|\]$/g, '');
    const mayBeWithin = !this.allowed || this.allowed.some((name) => name === host || name === url.host);
    if (!mayBeWithin && isWithin(host)) throw new Unreachable(WITHIN_WORDS);
    const request = (url.protocol === 'https:' ? securedRequest : plainRequest)(url, {
      method,
      signal,
      headers: { ...headers, ...(body && { 'content-length': body.size }) },
      // Its connection is its own: nothing stays open for the next.
      agent: false,
      lookup: mayBeWithin ? undefined : lookupOutside,
    });
    const answer = new Promise<IncomingMessage>((resolve, reject) => {
      request.once('response', resolve);
      request.once('error', reject);
    });
    if (body) await Promise.race([pipeline(Readable.fromWeb(body.stream() as never), request), answer]);
    else request.end();
    return answer;
  }
}

const WITHIN_WORDS =
  'lies within the network of the server, which asks nobody there; whoever runs the server may allow it with PAMPERO_OUTSIDE';

/** Finds the address of a name, as the system does, and refuses one within the network. */
function lookupOutside(
  host: string,
  options: LookupOptions,
  callback: (error: Error | null, address: string | LookupAddress[], family?: number) => void,
): void {
  lookUp(host, { ...options, all: true }, (error, addresses) => {
    if (error) return callback(error, []);
    if (addresses.some(({ address }) => isWithin(address))) return callback(new Unreachable(WITHIN_WORDS), []);
    if (options.all === true) callback(null, addresses);
    else callback(null, addresses[0]!.address, addresses[0]!.family);
  });
}

async function readText(response: IncomingMessage, largest: number): Promise<string> {
  const parts: Buffer[] = [];
  let size = 0;
  for await (const part of response as AsyncIterable<Buffer>) {
    size += part.length;
    if (size > largest) throw new Unreachable(`answers with more than ${largest / 1e6} MB at once`);
    parts.push(part);
  }
  return Buffer.concat(parts).toString('utf8');
}

/** JSON, or undefined where a text is none. */
export function jsonIn(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    return undefined;
  }
}
