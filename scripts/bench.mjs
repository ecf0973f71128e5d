// `npm run bench [-- NAME... ] [--json FILE]`: builds what is missing and measures.
import { join } from 'node:path';
import { build } from './build.mjs';
import { root, run, setUp } from './setup.mjs';

setUp({ forTests: true }); // the viewer is measured in a browser
build();
run(process.execPath, [join(root, 'bench', 'dist', 'main.js'), ...process.argv.slice(2)]);
