import { ensureFeetFiles } from './feet-files.js';
import { ensureFrames } from './frame-files.js';
import type { MadeApart } from './made-apart.js';

/** The process that makes files of the demo: which, and in which folder. */
const [what, folder] = process.argv.slice(2) as [string, string];
const made: Record<MadeApart, (folder: string) => Promise<unknown>> = { frames: ensureFrames, feet: ensureFeetFiles };
await made[what as MadeApart](folder);
