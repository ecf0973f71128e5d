import { fileURLToPath } from 'node:url';
import { ensureDemoFiles } from './demo-files.js';

const folder = process.argv[2] ?? fileURLToPath(new URL('../data', import.meta.url));
console.log(await ensureDemoFiles(folder));
