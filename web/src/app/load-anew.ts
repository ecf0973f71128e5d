import type { NavigationError } from '@angular/router';

const KEY = 'pampero-loaded-anew';
/** Twice within so many milliseconds would be a circle. */
const AGAIN_AFTER = 10_000;

/**
 * A part of the page could not be fetched: the server was brought up to date meanwhile, or does not know this browser any more.
 * The address is loaded anew, from the server's door on.
 */
export function loadAnew({ url }: Pick<NavigationError, 'url'>, go = (to: string): void => location.assign(to)): void {
  const now = Date.now();
  if (now - Number(sessionStorage.getItem(KEY) ?? 0) < AGAIN_AFTER) return;
  sessionStorage.setItem(KEY, String(now));
  go(url);
}
