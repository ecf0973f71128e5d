import { createHash, timingSafeEqual } from 'node:crypto';
import type { Request } from 'express';

/** In the same time whatever is given, so that nobody can guess it letter by letter. */
export function isSame(given: string, wanted: string): boolean {
  const digest = (text: string): Buffer => createHash('sha256').update(text).digest();
  return timingSafeEqual(digest(given), digest(wanted));
}

/** Whether a request brings a cookie of this name with this very value. */
export function hasCookie({ headers }: Request, name: string, wanted: string): boolean {
  const cookies = (headers.cookie ?? '').split(/;\s*/);
  return cookies.some((each) => each.startsWith(`${name}=`) && isSame(each.slice(name.length + 1), wanted));
}
