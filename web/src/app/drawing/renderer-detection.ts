/** What WebGL draws with on this machine. */
export interface Renderer {
  readonly name: string;
  /** Software that stands in for a graphics card. */
  readonly isSoftware: boolean;
}

const KEY = 'pampero-renderer';

interface Remembered {
  readonly browser: string;
  readonly renderer: Renderer | undefined;
}

/**
 * What was found by this very browser before, since the machine under it seldom changes: null where there is no WebGL that
 * will do, undefined where it was never asked.
 */
export function rememberedRenderer(): Renderer | null | undefined {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? 'null') as Remembered | null;
    return kept?.browser === navigator.userAgent ? (kept.renderer ?? null) : undefined;
  } catch {
    return undefined;
  }
}

/** Asks WebGL in a worker of its own and remembers the answer; `undefined` where there is no WebGL that will do. */
export function detectRenderer(): Promise<Renderer | undefined> {
  return new Promise((resolve) => {
    const worker = new Worker(new URL('./renderer.worker', import.meta.url), { type: 'module' });
    const end = (renderer: Renderer | undefined): void => {
      worker.terminate();
      localStorage.setItem(KEY, JSON.stringify({ browser: navigator.userAgent, renderer } satisfies Remembered));
      resolve(renderer);
    };
    worker.onmessage = ({ data }: MessageEvent<Renderer | undefined>) => end(data);
    worker.onerror = () => end(undefined);
  });
}
