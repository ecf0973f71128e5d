import { existsSync } from 'node:fs';

/** The built worker of a folder of the server, for a module in it, also when the server itself runs from its sources under test. */
export function workerFile(module: string): string {
  const beside = new URL('./worker.js', module);
  const folder = beside.pathname.split('/').at(-2)!;
  return existsSync(beside) ? beside.href : new URL(`../../dist/${folder}/worker.js`, module).href;
}

/**
 * What threads are started with. A thread pool may load our modules through `require`, and Node 20 ends the whole process where a thread is ended in the middle of that
 * (`v8::Module::IsGraphAsync`): a run cancelled, or a server stopped, just as a thread starts. Without this `require` refuses modules, and they are imported.
 */
export const THREAD_ARGUMENTS: readonly string[] = process.allowedNodeEnvironmentFlags.has(
  '--experimental-require-module',
)
  ? ['--no-experimental-require-module']
  : [];
