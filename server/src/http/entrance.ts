import { createHmac } from 'node:crypto';
import { isIP } from 'node:net';
import { hostname } from 'node:os';
import { urlencoded, type Request, type RequestHandler, type Response, Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import { PamperoError } from '@pampero/core/task';
import { JobError } from '../errors/job-error.js';
import { isLoopback, LOOPBACK } from '../loopback.js';
import { sendPlainPage } from './plain-page.js';
import { hasCookie, isSame } from './secrets.js';

/** Where a page asks for the server's token. */
const ENTER = '/enter';
const COOKIE = 'pampero';
/** Wrong tokens from one address: guessing is hopeless anyway, and should not fill the log. */
const [TRIES, TRIES_MS] = [10, 60_000];
/** What one address may ask to be changed: far more than hands or a script of a job do. */
const [CHANGES, CHANGES_MS] = [2_000, 10_000];

export interface EntranceOptions {
  readonly host: string;
  /** Names beside its own by which the server is reached. */
  readonly names: readonly string[];
  /** Whoever comes has to know it; undefined where only this machine can come. */
  readonly token: string | undefined;
}

/**
 * Who gets in: requests under the server's own names, from its own pages or from no page at all, and, beyond this machine,
 * with its token. What another site's page can make a browser send is refused, a plain form or picture too.
 */
export function entrance({ host, names, token }: EntranceOptions, open: Router): Router {
  const router = Router();
  router.use(checkHost(host, names));
  // What was shared is for those who do not know the token.
  router.use('/shared', checkOrigin, open);
  if (token !== undefined) router.use(...checkToken(token));
  router.use(checkOrigin);
  router.use(
    rateLimit({
      windowMs: CHANGES_MS,
      limit: CHANGES,
      skip: (request) => request.method === 'GET' || request.method === 'HEAD' || isLoopback(host),
      handler: () => {
        throw new JobError('too-many', { what: 'Too many requests at once.', fix: 'Wait ten seconds.' });
      },
    }),
  );
  return router;
}

/** A foreign name that was made to lead here (DNS rebinding) would let its pages pass for the server's own. */
function checkHost(host: string, names: readonly string[]): RequestHandler {
  const isOpen = host === '0.0.0.0' || host === '::';
  const own = new Set([...LOOPBACK, host, ...names].map((name) => name.toLowerCase()));
  if (isOpen) for (const name of [hostname(), `${hostname()}.local`]) own.add(name.toLowerCase());
  return (request, _response, next) => {
    const name = nameOf(request.headers.host);
    // A bare address cannot be made to lead elsewhere; which of its addresses an open server has, it does not know.
    if (name === undefined || !(own.has(name) || (isOpen && isIP(name) !== 0)))
      throw new PamperoError('wrong-host', {
        what: 'The server does not go by this name.',
        fix: 'Use the address it was started with, or add the name to PAMPERO_NAMES.',
      });
    next();
  };
}

function nameOf(host: string | undefined): string | undefined {
  const found = /^(?:\[([0-9a-f:.]+)\]|([a-z0-9._-]+))(?::\d{1,5})?$/i.exec(host ?? '');
  return (found?.[1] ?? found?.[2])?.toLowerCase();
}

const checkOrigin: RequestHandler = (request, _response, next) => {
  const site = request.headers['sec-fetch-site'];
  const isRead = request.method === 'GET' || request.method === 'HEAD';
  const isPage = isRead && request.headers['sec-fetch-mode'] === 'navigate' && !request.path.startsWith('/api');
  const { origin } = request.headers;
  const isOwnSite = site === 'same-origin' || site === 'none';
  // A form of the server's own page, which tells nobody where it came from, has the origin "null"; no page can set the other header.
  const isUntold = origin === undefined || (origin === 'null' && isOwnSite);
  const isForeign = (site !== undefined && !isOwnSite) || (!isUntold && !isOwnOrigin(origin, request.headers.host));
  if (isForeign && !isPage) throw new PamperoError('cross-site', { what: 'The request comes from another site.' });
  next();
};

function isOwnOrigin(origin: string, host: string | undefined): boolean {
  try {
    return new URL(origin).host === host?.toLowerCase();
  } catch {
    return false; // "null", of a page without an origin
  }
}

function checkToken(token: string): RequestHandler[] {
  const session = createHmac('sha256', token).update('session').digest('base64url');
  const isIn = (request: Request): boolean => {
    const bearer = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1];
    if (bearer !== undefined && isSame(bearer, token)) return true;
    return hasCookie(request, COOKIE, session);
  };
  const tries = rateLimit({
    windowMs: TRIES_MS,
    limit: TRIES,
    skipSuccessfulRequests: true,
    handler: (_request, response) => page(response, 429, 'Too many wrong tokens. Wait a minute.'),
  });
  const door = Router();
  door.get(ENTER, (_request, response) => page(response, 200));
  door.post(ENTER, checkOrigin, tries, urlencoded({ extended: false, limit: '4kb' }), (request, response) => {
    const given: unknown = (request.body as Record<string, unknown> | undefined)?.['token'];
    if (typeof given !== 'string' || !isSame(given.trim(), token))
      return page(response, 401, 'This is not the server’s token.');
    response.cookie(COOKIE, session, { httpOnly: true, sameSite: 'strict', path: '/', maxAge: 30 * 24 * 3600 * 1000 });
    response.redirect(303, '/');
  });
  return [
    door,
    (request, response, next) => {
      if (isIn(request)) return next();
      const isPage = request.method === 'GET' && (request.headers.accept ?? '').includes('text/html');
      if (isPage && !request.path.startsWith('/api')) return response.redirect(303, ENTER);
      throw new JobError('not-allowed', {
        what: 'The server wants its token.',
        fix: 'Open its page and give it, or send it as “Authorization: Bearer …”.',
      });
    },
  ];
}

function page(response: Response, status: number, message = ''): void {
  sendPlainPage(response, {
    status,
    heading: 'Pampero',
    words: 'This server asks for its token. It was shown where the server was started.',
    asks: { label: 'Token', name: 'token', action: ENTER },
    message,
  });
}
