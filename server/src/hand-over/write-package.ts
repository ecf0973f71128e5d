import { stat, writeFile } from 'node:fs/promises';
import {
  describeProduct,
  formatsOf,
  kindById,
  POINT_FILES,
  pointExportSchema,
  type HandedOver,
  type HandOver,
  type HandOverItem,
  type Job,
} from '@pampero/contract';
import { Cancelled } from '@pampero/core/task';
import { formatCount } from '@pampero/core/wording';
import { fileSum } from '../files/file-sum.js';
import { problemOf } from '../errors/problem.js';
import type { JobLibrary } from '../jobs/job-library.js';
import { fileStem } from '../products/file-names.js';
import { inputsInWords } from '../products/product-home.js';
import { noSuchFormat } from '../products/no-such-format.js';
import { readCloud } from '../store/cloud-repository.js';
import type { Models } from '../store/models.js';
import { readProduct } from '../store/product-repository.js';
import type { WritingPool } from '../writing/writing-pool.js';
import { packageMetadata } from './metadata.js';
import { packageReadme } from './readme.js';

/** Files that are written at the same time; each lies aside until it is taken. */
const AT_ONCE = 2;

/** Where the files of a package go: a folder, or an archive that is being sent. */
export interface PackageTarget {
  /** A path that the next file can be written to. */
  path(name: string): string;
  /** Takes a file that was written there. */
  take(name: string, path: string): Promise<void>;
}

export interface PackageSite {
  readonly library: JobLibrary;
  readonly writing: WritingPool;
  readonly jobId: string;
}

/**
 * Writes chosen products and clouds, a README in plain words, metadata by ISO 19115 and SHA-256 sums. A file that cannot be
 * written is named with its reason, and the rest is there.
 *
 * @param onShare - told of the share that is done and the file being written
 * @throws Cancelled when the signal fires
 */
export async function writePackage(
  { library, writing, jobId }: PackageSite,
  handOver: HandOver,
  target: PackageTarget,
  signal: AbortSignal,
  onShare: (share: number, name: string) => void = () => undefined,
): Promise<HandedOver> {
  const [job, file] = [await library.describe(jobId), await library.file(jobId)];
  const letGo = file.hold();
  try {
    return await writePackageOf(
      { job, jobPath: file.path, models: file.read, writing },
      handOver,
      target,
      signal,
      onShare,
    );
  } finally {
    letGo();
  }
}

/** A job's file that is read, by a server or beside one. */
export interface PackageSource {
  readonly job: Job;
  readonly jobPath: string;
  readonly models: Models;
  readonly writing: WritingPool;
}

/** As {@link writePackage}, from a job's file. */
export async function writePackageOf(
  source: PackageSource,
  handOver: HandOver,
  target: PackageTarget,
  signal: AbortSignal,
  onShare: (share: number, name: string) => void = () => undefined,
): Promise<HandedOver> {
  const { job, models } = source;
  const names = new Set<string>();
  const files: HandedOver['files'] = [];
  const missing: HandedOver['missing'] = [];
  /** Begins to write a file; what is answered takes it into the package, or says why it is not there. */
  const begin = (name: string, what: string, write: (path: string) => Promise<unknown>): (() => Promise<void>) => {
    const path = target.path(name);
    const written = write(path)
      .then(async () => ({ name, what, sha256: await fileSum(path), bytes: (await stat(path)).size }))
      .catch((error: unknown) => ({ error }));
    return async () => {
      const result = await written;
      if (signal.aborted) throw new Cancelled();
      if ('error' in result) {
        if (result.error instanceof Cancelled) throw result.error;
        missing.push({ name, because: problemOf(result.error).detail });
      } else {
        files.push(result);
        await target.take(name, path);
      }
    };
  };
  const plans: { readonly name: string; readonly what: string; readonly item: HandOverItem }[] = [];
  for (const item of handOver.items)
    try {
      const planned = await planFile(models, job, item, handOver.pattern);
      plans.push({ name: freeName(planned, names), what: planned.what, item });
    } catch (error) {
      missing.push({
        name: item.kind === 'view' || item.kind === 'report' ? item.kind : `${item.kind} ${item.id}, ${item.format}`,
        because: problemOf(error).detail,
      });
    }
  // Some are written at once, and all are taken in their order.
  const under: (() => Promise<void>)[] = [];
  for (const [k, { name, what, item }] of plans.entries()) {
    if (signal.aborted) break;
    onShare(k / plans.length, name);
    under.push(begin(name, what, (path) => writeItem(source, item, path, signal)));
    if (under.length >= AT_ONCE) await under.shift()!();
  }
  for (const taken of under) await taken();
  const keep = (name: string, what: string, content: string): Promise<void> =>
    begin(name, what, (path) => writeFile(path, content))();
  onShare(1, 'README.txt');
  const facts = { job, models, note: handOver.note, files: [...files], missing: [...missing] };
  const readme = await packageReadme(facts);
  await keep('README.txt', 'This list, units, systems and the meaning of classes', readme);
  const metadata = await packageMetadata(facts);
  await keep('metadata.xml', 'Metadata by ISO 19115, as ISO 19139 XML', metadata);
  const sums = files.map(({ name, sha256 }) => `${sha256}  ${name}\n`).join('');
  const path = target.path('SHA256SUMS.txt');
  await writeFile(path, sums);
  await target.take('SHA256SUMS.txt', path);
  return { files, missing };
}

interface PlannedFile {
  readonly stem: string;
  readonly ending: string;
  readonly what: string;
}

async function planFile(models: Models, job: Job, item: HandOverItem, pattern: string): Promise<PlannedFile> {
  if (item.kind === 'report')
    return {
      stem: named(pattern, job, { name: item.report.title ?? 'Report', kind: 'report' }),
      ending: `.${item.report.format}`,
      what: 'The report: what came in, what was done, how accurate it is',
    };
  if (item.kind === 'view')
    return {
      stem: named(pattern, job, { name: item.view.title ?? 'View', kind: 'view' }),
      ending: '.html',
      what: 'The land to look at, turn and measure: open it with any browser, no network is needed',
    };
  if (item.kind === 'cloud') {
    const { name, pointCount } = await readCloud(models, item.id);
    const classes = item.classes ? `, classes ${item.classes.join(', ')}` : '';
    return {
      stem: named(pattern, job, { name, kind: 'cloud' }),
      ending: POINT_FILES[item.format].ending,
      what: `Point cloud “${name}”, ${formatCount(pointCount)} points${classes}`,
    };
  }
  const product = await readProduct(models, item.id);
  const format = formatsOf(product).find(({ id }) => id === item.format);
  if (!format) throw noSuchFormat(product, item.format);
  const kind = kindById(product.kind)!.name.one;
  const from = product.inputs.length > 0 ? `; from ${inputsInWords(product.inputs)}` : '';
  return {
    stem: named(pattern, job, { name: product.name, kind }),
    ending: format.ending,
    what: `${product.name}: ${describeProduct(product, job.unit)}, as ${format.label}${from}${product.isStale ? '. STALE: ' + (product.staleBecause ?? 'what it was made from has changed') : ''}`,
  };
}

function named(pattern: string, job: Job, { name, kind }: { readonly name: string; readonly kind: string }): string {
  const parts: Record<string, string> = {
    job: job.name,
    name,
    kind,
    date: new Date().toISOString().slice(0, 10),
    epsg: job.crs.epsg === undefined ? 'local' : `EPSG ${job.crs.epsg}`,
  };
  return pattern.replace(/\{(\w+)\}/g, (_, part: string) => parts[part] ?? '');
}

/** Two files of a name become two names. */
function freeName({ stem, ending }: PlannedFile, taken: Set<string>): string {
  for (let n = 1; ; n++) {
    const name = fileStem(n === 1 ? stem : `${stem} (${n})`) + ending;
    if (taken.has(name.toLowerCase())) continue;
    taken.add(name.toLowerCase());
    return name;
  }
}

async function writeItem(
  { writing, jobPath, job, models }: PackageSource,
  item: HandOverItem,
  target: string,
  signal: AbortSignal,
): Promise<void> {
  if (item.kind === 'report')
    await writing.write('writeReport', { jobPath, job, target, options: item.report }, signal);
  else if (item.kind === 'view') await writing.write('writeView', { jobPath, job, target, options: item.view }, signal);
  else if (item.kind === 'cloud') {
    const { id: cloudId, format, classes, withheld } = item;
    const query = pointExportSchema.parse({ format, ...(classes && { classes }), ...(withheld && { withheld }) });
    await writing.write('writePoints', { jobPath, job, target, cloudId, query }, signal);
  } else {
    const product = await readProduct(models, item.id);
    await writing.write('writeProduct', { jobPath, job, target, product, formatId: item.format }, signal);
  }
}
