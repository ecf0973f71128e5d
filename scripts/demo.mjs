// `npm run demo`: installs what is missing, builds, makes the demo data and serves Pampero with the demo job in it.
import { build } from './build.mjs';
import { serve } from './serve.mjs';
import { setUp } from './setup.mjs';

setUp();
build();
serve('--demo');
