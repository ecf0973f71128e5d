import { fork } from 'node:child_process';
import { fileURLToPath } from 'node:url';

/** Files of the demo that take seconds to make, and are not waited for. */
export type MadeApart = 'frames' | 'feet';

/** Makes files of the demo in a process of their own, beside whatever else is going on. */
export function madeApart(what: MadeApart, folder: string): Promise<void> {
  const child = fork(fileURLToPath(new URL('./make-apart.js', import.meta.url)), [what, folder], { stdio: 'ignore' });
  // Who stops meanwhile does not wait for it.
  child.unref();
  child.channel?.unref();
  return new Promise((resolve, reject) => {
    child.once('error', reject);
    child.once('exit', (code) =>
      code === 0 ? resolve() : reject(new Error(`Files of the demo (${what}) could not be made.`)),
    );
  });
}
