import { writeFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { qualityOf } from './ground-quality.js';
import { lineQuality } from './line-quality.js';
import { judged, tableOf, type ReportedRow, type Row } from './rows.js';
import { shiftQuality } from './shift-quality.js';
import { stripQuality } from './strip-quality.js';
import { SCENES } from '@pampero/demo';

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { json: { type: 'string' }, seed: { type: 'string', multiple: true } },
});
const [STRIPS, LINES, SHIFTS] = ['strips', 'lines', 'shifts'];
const known = [...SCENES, STRIPS, LINES, SHIFTS];
const names = positionals.length > 0 ? positionals : known;
const unknown = names.filter((name) => !known.includes(name));
if (unknown.length > 0) {
  console.error(`There is no scene ${unknown.join(', ')}. There are: ${known.join(', ')}.`);
  process.exit(1);
}
/** The methods were tuned on scenes of the seeds 11 and 23; these are others. */
const seeds = (values.seed ?? ['101', '202']).map(Number);
const rows: ReportedRow[] = [];
const note = (row: Row): void => {
  rows.push(judged(row));
  console.error(`${row.name}: ${row.measured.toPrecision(4)} ${row.unit}`);
};
const scenes = names.filter((name) => ![STRIPS, LINES, SHIFTS].includes(name));
if (scenes.length > 0) for await (const row of qualityOf(scenes, seeds)) note(row);
if (names.includes(STRIPS)) for await (const row of stripQuality(seeds)) note(row);
if (names.includes(LINES)) for (const row of lineQuality(seeds)) note(row);
if (names.includes(SHIFTS)) for (const row of shiftQuality(seeds)) note(row);
console.log(tableOf(rows));
if (values.json) await writeFile(values.json, `${JSON.stringify(rows, null, 2)}\n`);
