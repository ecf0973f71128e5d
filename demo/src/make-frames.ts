import { ensureFrames } from './frame-files.js';

await ensureFrames(process.argv[2]!);
