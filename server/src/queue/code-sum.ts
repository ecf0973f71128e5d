import { createHash } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

let known: string | undefined;

/**
 * A sum over the code that computes: two machines give the same bytes only where it is the same on both. Read once.
 */
export function codeSum(): string {
  if (known !== undefined) return known;
  const sum = createHash('sha256');
  const core = dirname(fileURLToPath(import.meta.resolve('@pampero/core/task')));
  const tasks = fileURLToPath(new URL('../tasks', import.meta.url));
  for (const folder of [join(core, '..'), tasks])
    for (const path of readdirSync(folder, { recursive: true, encoding: 'utf8' }).sort()) {
      if (!/\.(js|wasm)$/.test(path)) continue;
      sum.update(path.replaceAll('\\', '/')).update(readFileSync(join(folder, path)));
    }
  return (known = sum.digest('base64url').slice(0, 16));
}
