import { readdir, readFile, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { fileSum } from '../files/file-sum.js';
import { JOB_ENDING } from '../jobs/job-paths.js';
import { listClouds } from '../store/cloud-repository.js';
import { readHistory } from '../store/history-repository.js';
import { checkJobFile } from '../store/job-file.js';
import { listProducts } from '../store/product-repository.js';
import { EXIT } from './exit-codes.js';
import { existing } from './files.js';
import { openJobAt } from './job-at.js';

interface Finding {
  readonly level: 'fault' | 'note';
  readonly text: string;
}

/** Looks through a job file, or holds the files of a hand-over against their sums. */
export async function check(path: string, { json = false }: { readonly json?: boolean }): Promise<void> {
  const isFolder = (await stat(await existing(path))).isDirectory();
  const findings = isFolder ? await checkFolder(path) : await checkJob(path);
  const faults = findings.filter(({ level }) => level === 'fault');
  if (json) process.stdout.write(`${JSON.stringify({ path, isGood: faults.length === 0, findings }, undefined, 2)}\n`);
  else {
    for (const { level, text } of findings)
      process.stdout.write(`${level === 'fault' ? 'FAULT  ' : '       '}${text}\n`);
    process.stdout.write(`${path}: ${faults.length === 0 ? 'nothing wrong' : formatCounted(faults.length, 'fault')}\n`);
  }
  if (faults.length > 0) process.exitCode = EXIT.faulty;
}

async function checkJob(path: string): Promise<Finding[]> {
  const findings: Finding[] = [];
  const fault = (text: string): void => void findings.push({ level: 'fault', text });
  const note = (text: string): void => void findings.push({ level: 'note', text });
  await checkJobFile(path);
  const { job, models, query, close } = await openJobAt(path);
  try {
    note(`${job.name}: ${formatCounted(job.cloudCount, 'cloud')}, ${formatCounted(job.pointCount, 'point')}`);
    const [integrity] = await query('PRAGMA integrity_check(1)');
    if (Object.values(integrity ?? {})[0] !== 'ok')
      fault(`The database is damaged: ${String(Object.values(integrity!)[0])}`);
    for (const { id, name, pointCount, classCounts } of await listClouds(models)) {
      const [stored] = await query(`SELECT COALESCE(SUM(count), 0) AS points FROM nodes WHERE cloudId = ${id}`);
      const classed = Object.values(classCounts).reduce((sum, n) => sum + n, 0);
      if (Number(stored!['points']) !== pointCount)
        fault(`${name}: ${formatCount(Number(stored!['points']))} points are stored of ${formatCount(pointCount)}.`);
      if (classed !== pointCount)
        fault(`${name}: classes are stored for ${formatCount(classed)} of ${formatCount(pointCount)} points.`);
      const [bare] = await query(
        `SELECT COUNT(*) AS n FROM nodes LEFT JOIN node_geometry g ON g.nodeId = nodes.id WHERE cloudId = ${id} AND (g.bytes IS NULL OR length(g.bytes) <> 12 * count)`,
      );
      if (Number(bare!['n']) > 0)
        fault(`${name}: ${formatCounted(Number(bare!['n']), 'piece')} without all coordinates.`);
    }
    const [half] = await query("SELECT COUNT(*) AS n FROM clouds WHERE state = 'importing'");
    if (Number(half!['n']) > 0)
      note(`${formatCounted(Number(half!['n']), 'cloud')} of an import that was cut off; the next opening removes it.`);
    const products = await listProducts(models);
    for (const { name, isStale, staleBecause } of products)
      if (isStale) fault(`${name} is stale: ${staleBecause ?? 'what it was made from has changed.'}`);
    note(formatCounted(products.length, 'product'));
    const interrupted = (await readHistory(models)).entries.filter(
      ({ state }) => state === 'running' || state === 'interrupted',
    );
    if (interrupted.length > 0)
      note(`${formatCounted(interrupted.length, 'step')} of the field book cut off; nothing of them was kept.`);
    return findings;
  } finally {
    await close();
  }
}

/** Holds every file named in the sums against its own, and opens the job that lies in it. */
async function checkFolder(path: string): Promise<Finding[]> {
  const findings: Finding[] = [];
  const sums = await readFile(join(path, 'SHA256SUMS.txt'), 'utf8').catch(() => undefined);
  if (sums === undefined) findings.push({ level: 'fault', text: 'There is no SHA256SUMS.txt in the folder.' });
  let good = 0;
  for (const line of (sums ?? '').split('\n').filter(Boolean)) {
    const [, wanted, name] = /^([0-9a-f]{64}) [ *](.+)$/.exec(line) ?? [];
    if (wanted === undefined || name === undefined || name.includes('/')) {
      findings.push({ level: 'fault', text: `SHA256SUMS.txt has a line that is none: ${line.slice(0, 80)}` });
      continue;
    }
    const sum = await fileSum(join(path, name)).catch(() => undefined);
    if (sum === undefined) findings.push({ level: 'fault', text: `${name} is missing.` });
    else if (sum !== wanted) findings.push({ level: 'fault', text: `${name} was changed since it was handed over.` });
    else good++;
  }
  findings.push({ level: 'note', text: `${formatCounted(good, 'file')} as handed over` });
  const jobs = (await readdir(join(path, 'job')).catch(() => [])).filter((name) => name.endsWith(JOB_ENDING));
  for (const name of jobs) findings.push(...(await checkJob(join(path, 'job', name))));
  return findings;
}
