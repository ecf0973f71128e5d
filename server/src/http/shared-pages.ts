import { urlencoded, type Response, Router } from 'express';
import { rateLimit } from 'express-rate-limit';
import type { ShareStore } from '../sharing/share-store.js';
import { sendPlainPage } from './plain-page.js';
import { hasCookie } from './secrets.js';

const COOKIE = 'shared';
/** Passwords tried from one address. */
const [TRIES, TRIES_MS] = [10, 60_000];
/**
 * The page is in a world of its own: it fetches nothing, and what runs in it can reach neither this server's cookies nor its
 * API, whatever a job's texts hold.
 */
export const CLIENT_PAGE_POLICY =
  "default-src 'none'; script-src 'unsafe-inline'; style-src 'unsafe-inline'; img-src data: blob:; font-src data:; sandbox allow-scripts";

/** Pages that were shared by a link: read, and nothing else. */
export function sharedPages(shares: ShareStore): Router {
  const router = Router();
  const nothing = (response: Response): void =>
    sendPlainPage(response, {
      status: 404,
      heading: 'Nothing here',
      words: 'This link leads nowhere. Ask whoever sent it.',
    });
  const tries = rateLimit({
    windowMs: TRIES_MS,
    limit: TRIES,
    skipSuccessfulRequests: true,
    handler: (_request, response) =>
      sendPlainPage(response, { status: 429, heading: 'Wait a minute', words: 'The password was wrong too often.' }),
  });
  const asks = (response: Response, id: string, status: number, message?: string): void =>
    sendPlainPage(response, {
      status,
      heading: 'A survey for you',
      words: 'It is opened with the password that came with the link.',
      asks: { label: 'Password', name: 'password', action: `/shared/${id}` },
      ...(message !== undefined && { message }),
    });
  router.use((_request, response, next) => {
    response.setHeader('x-robots-tag', 'noindex');
    response.setHeader('referrer-policy', 'no-referrer');
    next();
  });
  router.get('/:id', async (request, response) => {
    const { id } = request.params;
    const share = await shares.open(id);
    if (!share) return nothing(response);
    if (share.state === 'ended')
      return sendPlainPage(response, {
        status: 410,
        heading: 'This link has ended',
        words: 'Ask whoever sent it for another.',
      });
    if (share.state === 'locked' && !hasCookie(request, COOKIE, share.key)) return asks(response, id, 200);
    response.setHeader('content-security-policy', CLIENT_PAGE_POLICY);
    // Shared with people on other machines, whose browsers isolate the page anyway.
    response.removeHeader('cross-origin-embedder-policy');
    response.setHeader('cache-control', 'no-store');
    response.type('html').sendFile(share.path, { cacheControl: false, dotfiles: 'allow' });
  });
  router.post('/:id', tries, urlencoded({ extended: false, limit: '4kb' }), async (request, response) => {
    const { id } = request.params as { id: string };
    const share = await shares.open(id);
    if (share?.state !== 'locked') return nothing(response);
    const given: unknown = (request.body as Record<string, unknown> | undefined)?.['password'];
    if (typeof given !== 'string' || !(await share.fits(given)))
      return asks(response, id, 401, 'This is not the password.');
    response.cookie(COOKIE, share.key, { httpOnly: true, sameSite: 'strict', path: `/shared/${id}` });
    response.redirect(303, `/shared/${id}`);
  });
  router.use((_request, response) => nothing(response));
  return router;
}
