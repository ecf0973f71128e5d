import {
  describeParameters,
  formatShare,
  operationById,
  REPORT_PART_NAMES,
  type Job,
  type ReportOptions,
  type ReportPart,
} from '@pampero/contract';
import { lengthUnits, metresPer } from '@pampero/core/geodesy';
import { formatCount, formatCounted, formatNumber } from '@pampero/core/wording';
import { systemOf } from '../crs/system-words.js';
import { listClouds, readCloudReport } from '../store/cloud-repository.js';
import { listControl } from '../store/control-repository.js';
import { readHistory } from '../store/history-repository.js';
import type { Models } from '../store/models.js';
import { classNames, readJobClasses } from '../store/pin-repository.js';
import { listProducts } from '../store/product-repository.js';
import { listSheetRuns } from '../store/sheet-run-repository.js';
import { of, type Gathered } from './gathered.js';
import { accuracy, map, strips, surfaces, volumes } from './report-results.js';
import { list, table, text, type Report, type ReportBlock, type ReportSection } from './report-model.js';
import { densityMap, givenPicture } from './report-pictures.js';
import { markdownBlocks } from './markdown-blocks.js';

/** Everything a report says, read from the job: no figure is typed by anyone. */
export async function gatherReport(models: Models, job: Job, options: ReportOptions): Promise<Report> {
  const { short, name } = lengthUnits[job.unit];
  const gathered: Gathered = {
    models,
    job,
    options,
    clouds: await listClouds(models),
    products: await listProducts(models),
    length: (value, decimals = 3) => `${formatNumber(value, decimals)} ${short}`,
  };
  const sections: ReportSection[] = [];
  if (options.words.trim() !== '') sections.push({ heading: '', blocks: markdownBlocks(options.words) });
  for (const part of options.parts) {
    const blocks = await PARTS[part](gathered);
    if (blocks.length > 0) sections.push({ heading: REPORT_PART_NAMES[part], blocks });
  }
  return {
    title: options.title ?? job.name,
    subtitle: `${job.name}. ${systemOf(job)}. Lengths and elevations in ${name}. ${new Date().toISOString().slice(0, 10)}, made with Pampero.`,
    surveyor: options.surveyor,
    sections,
    ...(options.logo !== undefined && { logo: await givenPicture(options.logo, 'The logo') }),
  };
}

const PARTS: Readonly<Record<ReportPart, (g: Gathered) => Promise<ReportBlock[]> | ReportBlock[]>> = {
  'came-in': cameIn,
  done: whatWasDone,
  density,
  strips,
  accuracy,
  map,
  surfaces,
  volumes,
  pictures: ({ options }) =>
    Promise.all(
      options.pictures.map(async ({ caption, image }, k) => ({
        kind: 'picture' as const,
        caption,
        image: await givenPicture(image, `Picture ${k + 1}`),
      })),
    ),
  uncertain,
};

async function cameIn({ models, clouds, ...g }: Gathered): Promise<ReportBlock[]> {
  const control = await listControl(models);
  const count = (role: string): number => control.filter((point) => point.role === role).length;
  const pictures = of({ models, clouds, ...g }, 'picture');
  return [
    ...(clouds.length > 0
      ? [
          table(
            ['Cloud', 'File', 'Format', 'Points', 'Stated system'],
            clouds.map(({ name, source, pointCount }) => [
              name,
              source.fileName,
              source.format,
              formatCount(pointCount),
              source.crs?.epsg === undefined ? (source.crs?.name ?? 'none') : `EPSG:${source.crs.epsg}`,
            ]),
            [2, 2, 1.6, 1.3, 1.3],
          ),
        ]
      : []),
    ...(control.length > 0
      ? [text(`Surveyed points: ${count('control')} control points, ${count('check')} check points.`)]
      : []),
    ...(pictures.length > 0
      ? [
          table(
            ['Picture', 'File', 'Pixels'],
            pictures.map(({ name, facts }) => [
              name,
              facts.fileName,
              `${formatCount(facts.columns)} by ${formatCount(facts.rows)}`,
            ]),
          ),
        ]
      : []),
  ];
}

/** Every step that stands, in order, with the settings that were not the usual ones. */
async function whatWasDone({ models, job, clouds, products }: Gathered): Promise<ReportBlock[]> {
  const nameOf = classNames(await readJobClasses(models));
  const names = {
    of: (refersTo: string, id: number) =>
      (refersTo === 'cloud' ? clouds : products).find((each) => each.id === id)?.name,
    ofClass: (code: number) => `${code} ${nameOf(code)}`,
  };
  const { entries } = await readHistory(models);
  const rows = entries
    .filter(({ state }) => state === 'done')
    .reverse()
    .map(({ operation: id, title, outcome, parameters, startedAt }) => {
      const operation = operationById(id);
      const usual = operation?.parameters(job.unit).safeParse({}).data as Record<string, unknown> | undefined;
      const defaults = operation ? defaultsOf(operation.parameters(job.unit).shape) : {};
      const chosen = Object.fromEntries(
        Object.entries(parameters).filter(
          ([name, value]) => JSON.stringify(value) !== JSON.stringify(usual?.[name] ?? defaults[name]),
        ),
      );
      const settings = operation
        ? describeParameters(operation, chosen, job.unit, names)
            .filter(({ name, value }) => name in chosen && value !== '' && value.length < 200)
            .map(({ label, value }) => `${label}: ${value}`)
            .join('; ')
        : '';
      return [startedAt.slice(0, 10), title, outcome, settings];
    });
  return rows.length === 0
    ? []
    : [
        text('Settings are given where they are not the usual ones.'),
        table(['Date', 'Step', 'What changed', 'Settings'], rows, [1, 1.5, 3, 3]),
      ];
}

function defaultsOf(
  shape: Readonly<Record<string, { safeParse(given: unknown): { data?: unknown } }>>,
): Record<string, unknown> {
  return Object.fromEntries(Object.entries(shape).map(([name, schema]) => [name, schema.safeParse(undefined).data]));
}

async function density({ models, job, clouds, length }: Gathered): Promise<ReportBlock[]> {
  const blocks: ReportBlock[] = [];
  const perMetre = metresPer(job.unit) ** -2;
  const rows: string[][] = [];
  const pictures: ReportBlock[] = [];
  for (const { id, name } of clouds) {
    const report = await readCloudReport(models, id);
    const { points, pulses, spacing, voidShare, area } = report.density;
    rows.push([
      name,
      formatNumber(points * perMetre, 1),
      formatNumber(pulses * perMetre, 1),
      length(spacing),
      formatShare(voidShare),
      `${formatNumber(area, 0)} ${lengthUnits[job.unit].short}²`,
    ]);
    pictures.push({
      kind: 'picture',
      image: await densityMap(report),
      caption: `Density of ${name}: dark is few, light is many, blank is none.`,
    });
  }
  if (rows.length > 0)
    blocks.push(
      table(
        ['Cloud', 'Points per m²', 'Pulses per m²', 'Point spacing', 'Voids', 'Area'],
        rows,
        [2, 1, 1, 1.2, 1, 1.4],
      ),
      ...pictures,
    );
  return blocks;
}

/** Obscured ground, voids, what is stale, gates that were gone through all the same. */
async function uncertain(g: Gathered): Promise<ReportBlock[]> {
  const { models, clouds, products } = g;
  const items: string[] = [];
  for (const product of products)
    if (product.isStale)
      items.push(`${product.name} is stale. ${product.staleBecause ?? 'What it was made from has changed since.'}`);
  for (const cloud of clouds) {
    const { findings, density: d } = await readCloudReport(models, cloud.id);
    for (const { level, message } of findings) if (level === 'warning') items.push(`${cloud.name}: ${message}`);
    if (d.voidShare > 0.01) items.push(`${cloud.name}: ${formatShare(d.voidShare)} of its land has no point.`);
  }
  for (const { name, facts } of of(g, 'surface')) {
    if (facts.facetsLeftOut > 0)
      items.push(`${name}: ${formatCount(facts.facetsLeftOut)} triangles over gaps are left out.`);
    if ((facts.edgesNotHeld ?? 0) > 0)
      items.push(`${name}: ${formatCount(facts.edgesNotHeld!)} edges of lines could not be held.`);
    if (facts.design && facts.design.open > 0)
      items.push(
        `${name}: ${formatCounted(facts.design.open, 'slope line does', 'slope lines do')} not meet the ground.`,
      );
  }
  for (const { name, facts } of of(g, 'accuracy')) {
    if (!facts.statement.hasEnough)
      items.push(`${name}: fewer than the 30 check points that edition 2 (2023) of the standard asks for.`);
    for (const { number, excluded } of facts.points)
      if (excluded !== undefined) items.push(`${name}: check point ${number} was left out: ${excluded}.`);
  }
  for (const run of await listSheetRuns(models))
    for (const { state, outcome, reason } of Object.values(run.gates))
      if (state === 'accepted') items.push(`Run sheet “${run.sheet.name}”: ${outcome} Accepted: ${reason ?? ''}`);
  if (of(g, 'contours').length > 0) items.push('Contours are dashed where the ground was hardly seen.');
  return items.length === 0 ? [text('Nothing is stale, and no limit was passed over.')] : [list(items)];
}
