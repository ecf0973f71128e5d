import { fork, type ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { Cancelled } from '@pampero/core/task';
import { uncarried } from '../errors/carried-error.js';
import { unreadable, type DescribedPicture, type PictureFile } from './describe-picture.js';
import type { ReadPhotograph, ReadPhotographsTask } from './read-photographs.js';
import type { ReadPicture, ReadPictureTask } from './read-picture.js';
import type { Unpacked, UnpackTask } from './unpack-photographs.js';

export type PictureAsk =
  | { readonly kind: 'describe'; readonly file: PictureFile }
  | { readonly kind: 'read'; readonly task: ReadPictureTask }
  | { readonly kind: 'unpack'; readonly task: UnpackTask }
  | { readonly kind: 'photographs'; readonly task: ReadPhotographsTask };
export type PictureAnswer =
  | { readonly kind: 'share'; readonly share: number }
  /** The result, or the facts of an error. */
  | { readonly kind: 'done'; readonly result: unknown };

/*
 * Pictures from outside are decoded by libraries in machine code. They get a process of their own: one that a file brings down, or that
 * is cancelled, takes nothing with it. It answers one question after another while all goes well, and is not used again after a fault.
 */

const HEAP_MEGABYTES = 1500;

/** What a picture says of itself is a few kilobytes; a file that keeps a library busy for longer is damaged. */
const DESCRIBE_MS = 60_000;

/** @throws FormatError where it is no picture that can be read */
export async function describeApart(file: PictureFile, limitMs = DESCRIBE_MS): Promise<DescribedPicture> {
  const limit = AbortSignal.timeout(limitMs);
  try {
    return (await ask({ kind: 'describe', file }, file.fileName, limit)) as DescribedPicture;
  } catch (error) {
    if (!limit.aborted) throw error;
    throw unreadable(
      file.fileName,
      'what it says of itself has no end',
      'Save it anew as GeoTIFF; the file is damaged.',
    );
  }
}

/** @throws FormatError as {@link describeApart}; Cancelled when the signal fires */
export const readApart = (
  task: ReadPictureTask,
  signal: AbortSignal,
  onShare: (share: number) => void,
): Promise<ReadPicture> => ask({ kind: 'read', task }, task.fileName, signal, onShare) as Promise<ReadPicture>;

/** @throws FormatError `zip-unreadable`; Cancelled when the signal fires */
export const unpackApart = (
  task: UnpackTask,
  signal: AbortSignal,
  onShare: (share: number) => void,
): Promise<Unpacked> => ask({ kind: 'unpack', task }, task.fileName, signal, onShare) as Promise<Unpacked>;

/** @throws FormatError as {@link describeApart}; Cancelled when the signal fires */
export const photographsApart = (
  task: ReadPhotographsTask,
  signal: AbortSignal,
  onShare: (share: number) => void,
): Promise<ReadPhotograph[]> =>
  ask({ kind: 'photographs', task }, 'A photograph', signal, onShare) as Promise<ReadPhotograph[]>;

/** How long a process that has answered waits for another question, milliseconds. */
const WAIT_MS = 10_000;

/** Has answered well, and waits: what is described is read next, and what is unpacked too. */
let waiting: ChildProcess | undefined;

/** The one that waits, if it does. */
function takeKept(): ChildProcess | undefined {
  const kept = waiting;
  waiting = undefined;
  if (!kept?.connected) return undefined;
  kept.ref();
  kept.channel?.ref();
  return kept;
}

function newProcess(): ChildProcess {
  const beside = new URL('./picture-main.js', import.meta.url);
  const script = existsSync(beside) ? beside : new URL('../../dist/imagery/picture-main.js', import.meta.url);
  return fork(fileURLToPath(script), [], {
    serialization: 'advanced',
    execArgv: [`--max-old-space-size=${HEAP_MEGABYTES}`],
    stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
  });
}

/** Keeps one process for the next question; it holds up nobody who wants to end. */
function keepProcess(child: ChildProcess): void {
  if (waiting?.connected || !child.connected) {
    if (child.connected) child.disconnect();
    return;
  }
  waiting = child;
  child.unref();
  child.channel?.unref();
  setTimeout(() => {
    if (waiting !== child) return;
    waiting = undefined;
    if (child.connected) child.disconnect();
  }, WAIT_MS).unref();
}

async function ask(
  asked: PictureAsk,
  fileName: string,
  signal: AbortSignal,
  onShare?: (share: number) => void,
): Promise<unknown> {
  if (signal.aborted) throw new Cancelled();
  const kept = takeKept();
  // One that waited may have ended without our having heard yet: a file is at fault only where a process of its own breaks off too.
  const answer = kept && (await askProcess(kept, asked, signal, onShare));
  if (answer && answer !== BROKE_OFF) return answer.result;
  const last = await askProcess(newProcess(), asked, signal, onShare);
  if (last !== BROKE_OFF) return last.result;
  throw unreadable(fileName, 'reading it broke off', 'Save it anew as GeoTIFF; the file may be damaged.');
}

const BROKE_OFF = Symbol('broke off');

/** @throws what the process says of the file; Cancelled when the signal fires */
function askProcess(
  child: ChildProcess,
  asked: PictureAsk,
  signal: AbortSignal,
  onShare?: (share: number) => void,
): Promise<{ readonly result: unknown } | typeof BROKE_OFF> {
  return new Promise((resolve, reject) => {
    const stop = (): void => {
      child.kill('SIGKILL');
      reject(new Cancelled());
    };
    const done = (tell: () => void): void => {
      signal.removeEventListener('abort', stop);
      child.removeAllListeners();
      // What comes too late is nobody's.
      child.on('error', () => undefined);
      tell();
    };
    if (signal.aborted) return stop();
    signal.addEventListener('abort', stop, { once: true });
    child.on('message', (answer: PictureAnswer) => {
      if (answer.kind === 'share') return void onShare?.(answer.share);
      done(() => {
        try {
          resolve({ result: uncarried(answer.result) });
          keepProcess(child);
        } catch (error) {
          // A file that is not what it should be may have left the libraries in any state.
          child.kill('SIGKILL');
          reject(error as Error);
        }
      });
    });
    // All that it said has been heard once the channel is closed. What could not be sent, or begun, is told by the callback or the event.
    child.on('error', (error) => done(() => reject(error)));
    child.on('disconnect', () => done(() => resolve(BROKE_OFF)));
    child.send(asked, (error) => error && done(() => resolve(BROKE_OFF)));
  });
}
