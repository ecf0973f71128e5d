#!/usr/bin/env node
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const built = new URL('../dist/command/main.js', import.meta.url);
if (!existsSync(fileURLToPath(built))) {
  console.error('Pampero is not built yet. Run: npm run build');
  process.exit(1);
}
await import(built.href);
