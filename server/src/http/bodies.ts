import { json, type RequestHandler } from 'express';
import { JobError } from '../errors/job-error.js';

/** A body that stops arriving for so long is given up, so that half-sent ones do not pile up. */
const SILENT_MS = 60_000;
const LARGEST_JSON = '16mb';
/** Nothing the API takes lies deeper; text of nothing but brackets would take gigabytes to parse. */
const DEEPEST_JSON = 64;

/** Ends a connection whose body does not go on. */
export function endSilentBodies(silentMs = SILENT_MS): RequestHandler {
  return (request, _response, next) => {
    const hasBody = request.headers['transfer-encoding'] !== undefined || Number(request.headers['content-length']) > 0;
    if (hasBody) {
      const { socket } = request;
      socket.setTimeout(silentMs);
      const arrived = (): void => void socket.setTimeout(0);
      request.once('end', arrived);
      request.once('close', arrived);
    }
    next();
  };
}

/** JSON of a size and depth that can be meant. */
export const readJson: RequestHandler = json({
  limit: LARGEST_JSON,
  verify(_request, _response, bytes) {
    if (isDeeperThan(bytes, DEEPEST_JSON))
      throw new JobError('bad-request', {
        what: `The JSON is nested more than ${DEEPEST_JSON} deep.`,
        fix: 'Send it less deep.',
      });
  },
});

const [QUOTE, BACKSLASH, OPEN_LIST, OPEN_OBJECT, CLOSE_LIST, CLOSE_OBJECT] = [34, 92, 91, 123, 93, 125];

/** Counts brackets outside of strings; whether the text is JSON otherwise, the parser says. */
function isDeeperThan(bytes: Uint8Array, most: number): boolean {
  let depth = 0;
  let isInString = false;
  for (let i = 0; i < bytes.length; i++) {
    const byte = bytes[i]!;
    if (isInString) {
      if (byte === BACKSLASH) i++;
      else if (byte === QUOTE) isInString = false;
    } else if (byte === QUOTE) isInString = true;
    else if (byte === OPEN_LIST || byte === OPEN_OBJECT) {
      if (++depth > most) return true;
    } else if (byte === CLOSE_LIST || byte === CLOSE_OBJECT) depth--;
  }
  return false;
}
