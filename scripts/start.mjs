// `npm start`: installs what is missing, builds and serves Pampero with the jobs that are there.
import { build } from './build.mjs';
import { serve } from './serve.mjs';
import { setUp } from './setup.mjs';

setUp();
build();
serve();
