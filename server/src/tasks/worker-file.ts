import { existsSync } from 'node:fs';

/** The built worker of a folder of the server, for a module in it, also when the server itself runs from its sources under test. */
export function workerFile(module: string): string {
  const beside = new URL('./worker.js', module);
  const folder = beside.pathname.split('/').at(-2)!;
  return existsSync(beside) ? beside.href : new URL(`../../dist/${folder}/worker.js`, module).href;
}
