import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { classifyBench } from './classify-bench.js';
import { editsBench, neighbourBench } from './edits-bench.js';
import { importBench } from './import-bench.js';
import { lineBench } from './line-bench.js';
import { pictureBench } from './picture-bench.js';
import { sheetBench } from './sheet-bench.js';
import { stripBench } from './strip-bench.js';
import { terrainBench } from './terrain-bench.js';
import { viewerBench } from './viewer-bench.js';
import { judged, tableOf, type ReportedRow, type Row } from './rows.js';

/** Every bench by the name it is asked for with. */
const benches: Readonly<Record<string, (folder: string) => AsyncGenerator<Row>>> = {
  import: (folder) => importBench(folder, [3_000_000, 10_000_000, 30_000_000]),
  classify: (folder) => classifyBench(folder, [10_000_000, 40_000_000]),
  'classify-small': (folder) => classifyBench(folder, [3_000_000, 10_000_000]),
  lines: (folder) => lineBench(folder, 30_000_000),
  'lines-small': (folder) => lineBench(folder, 3_000_000),
  pictures: (folder) => pictureBench(folder, 20_000, 10_000_000),
  'pictures-small': (folder) => pictureBench(folder, 6_000, 3_000_000),
  sheet: (folder) => sheetBench(folder, 10_000_000),
  'sheet-small': (folder) => sheetBench(folder, 3_000_000),
  strips: (folder) => stripBench(folder, 30_000_000),
  'strips-small': (folder) => stripBench(folder, 6_000_000),
  terrain: (folder) => terrainBench(folder, 2_000_000),
  viewer: (folder) => viewerBench(folder, 30_000_000),
  edits: (folder) => editsBench(folder, 30_000_000),
  'edits-small': (folder) => editsBench(folder, 3_000_000),
  neighbours: (folder) => neighbourBench(folder, 2_000_000),
  'viewer-small': (folder) => viewerBench(folder, 10_000_000),
  'import-small': (folder) => importBench(folder, [3_000_000]),
  'import-100m': (folder) => importBench(folder, [100_000_000]),
};
/** What runs when nothing is named. */
const USUAL = [
  'import',
  'viewer',
  'edits',
  'neighbours',
  'classify',
  'terrain',
  'strips',
  'lines',
  'pictures',
  'sheet',
];

const { values, positionals } = parseArgs({ allowPositionals: true, options: { json: { type: 'string' } } });
const names = positionals.length > 0 ? positionals : USUAL;
const unknown = names.filter((name) => !(name in benches));
if (unknown.length > 0) {
  console.error(`There is no bench ${unknown.join(', ')}. There are: ${Object.keys(benches).join(', ')}.`);
  process.exit(1);
}
const folder = await mkdtemp(join(tmpdir(), 'pampero-bench-'));
const rows: ReportedRow[] = [];
try {
  for (const name of names) {
    for await (const row of benches[name]!(folder)) {
      rows.push(judged(row));
      console.error(`${row.name}: ${row.measured.toPrecision(4)} ${row.unit}`);
    }
  }
} finally {
  await rm(folder, { recursive: true, force: true });
}
console.log(tableOf(rows));
if (values.json) await writeFile(values.json, `${JSON.stringify(rows, null, 2)}\n`);
process.exit(0);
