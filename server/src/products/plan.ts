import { drawPlan, type ProductOf } from '@pampero/contract';
import { lengthUnits, metresPer } from '@pampero/core/geodesy';
import { pixelSize } from '@pampero/core/imagery';
import type { PlanBounds } from '@pampero/core/raster';
import { findCrs } from '../crs/crs-catalogue.js';
import { pictureOver } from '../passes/picture-over.js';
import { frameOf } from '../passes/picture-site.js';
import { landOf, readPlanContent } from '../plans/plan-content.js';
import { layOutPlan } from '../plans/plan-layout.js';
import type { PlanSystem } from '../plans/plan-setting.js';
import type { ExportSite, ProductHome } from './product-home.js';
import { pictureCodec } from '../imagery/codec.js';

/** Dots an inch of a picture on paper, and pixels of a sheet at most. */
const DOTS = 200;
const MOST_PIXELS = 40e6;
const WHITE = [255, 255, 255] as const;

async function pdfOf({ job, models }: ExportSite, product: ProductOf<'plan'>): Promise<PDFKit.PDFDocument> {
  const parameters = drawPlan.parameters(job.unit).parse(product.parameters);
  const content = await readPlanContent(models, job, parameters);
  const layout = layOutPlan(parameters, landOf(content), job.unit);
  const { picture } = content;
  const pictureOf = async (window: PlanBounds): Promise<Buffer | undefined> => {
    if (!picture) return undefined;
    const wide = window.east - window.west;
    const high = window.north - window.south;
    const onPaper = Math.round((layout.paper.map.width / 25.4) * DOTS);
    const own = Math.ceil(wide / pixelSize(frameOf(picture.facts)));
    const columns = Math.min(onPaper, own, Math.floor(Math.sqrt((MOST_PIXELS * wide) / high)));
    const rows = Math.max(1, Math.round((columns * high) / wide));
    const pixels = await pictureOver(models, picture.id, picture.facts, window, [columns, rows], WHITE);
    const sharp = await pictureCodec();
    return sharp(pixels, { raw: { width: columns, height: rows, channels: 3 } })
      .jpeg({ quality: 85 })
      .toBuffer();
  };
  const { planPdf } = await import('../plans/plan-pdf.js');
  return planPdf({
    layout,
    content,
    metresPerUnit: metresPer(job.unit),
    system: systemOf(job.crs.epsg),
    pictureOf,
    words: {
      title: parameters.title || job.name,
      job: job.name,
      client: parameters.client,
      drawnBy: parameters.drawnBy,
      number: parameters.number,
      note: parameters.note,
      drawnOn: product.madeAt.slice(0, 10),
      system:
        job.crs.epsg === undefined ? (job.crs.name ?? 'Local system') : `EPSG:${job.crs.epsg}, ${job.crs.name ?? ''}`,
      unit: lengthUnits[job.unit].short,
      paper: product.facts.paper,
      source: `Pampero. From ${content.sources.join(', ')}.`,
      isStale: product.isStale,
    },
  });
}

function systemOf(epsg: number | undefined): PlanSystem | undefined {
  const entry = findCrs(epsg);
  return entry?.proj4 === undefined ? undefined : { epsg: entry.epsg, proj4: entry.proj4, wkt: entry.wkt };
}

export const home: ProductHome<'plan'> = {
  kind: 'plan',
  writers: { pdf: async (site, product) => ({ stream: await pdfOf(site, product) }) },
};
