import type { MessagePort } from 'node:worker_threads';

/** Progress to a port, at most every fiftieth of a second. */
export function throttled(port: MessagePort): (share: number) => void {
  let last = 0;
  return (share) => {
    const now = Date.now();
    if (now - last < 20 && share < 1) return;
    last = now;
    port.postMessage(share);
  };
}
