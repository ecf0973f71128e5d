// `npm run quality [-- SCENE... ] [--seed N] [--json FILE]`: how well ground and objects are found in simulated scenes.
import { join } from 'node:path';
import { build } from './build.mjs';
import { root, run, setUp } from './setup.mjs';

setUp({ forTests: false });
build();
run(process.execPath, [join(root, 'bench', 'dist', 'quality.js'), ...process.argv.slice(2)]);
