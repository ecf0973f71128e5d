import { existsSync } from 'node:fs';
import { readFile, writeFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { deflateSync } from 'node:zlib';
import type { ClientViewFacts, ClientViewOptions, Job } from '@pampero/contract';
import { packExtras, packLand } from '@pampero/core/client-view';
import { framePlan } from '@pampero/core/raster';
import { checkCancelled, PamperoError } from '@pampero/core/task';
import type { Models } from '../store/models.js';
import { drapeOver } from '../passes/drape-over.js';
import { gatherView } from './gather-view.js';

/** The page as its build leaves it, with a place for what is shown. */
const PAGE = fileURLToPath(new URL('../../../client-view/dist/page.html', import.meta.url));
/** Land and words before the script, so that it can begin; the rest behind it. */
const [FIRST, LATER] = ['<!--first-->', '<!--later-->'];

/** More points than a page without a graphics card can turn. */
const MOST_POINTS = 1_500_000;
/** A point takes about so much once packed, and base 64 a third more. */
const BYTES_A_POINT = 9;
const BASE64 = 4 / 3;

/** Writes the one file that a client opens: page, land, picture and lines in one, with nothing to fetch. */
export async function writeClientView(
  models: Models,
  job: Job,
  options: ClientViewOptions,
  target: string,
  stopped: { readonly aborted: boolean },
): Promise<void> {
  if (!existsSync(PAGE))
    throw new PamperoError('not-built', { what: 'The page for clients is not built.', fix: 'Run npm run build.' });
  const page = await readFile(PAGE, 'utf8');
  const most = options.megabytes * 1e6 - Buffer.byteLength(page) - 20_000;
  // The picture is what a client looks at first, and gets half; points get what the rest leaves.
  const bare = await gatherView(models, job, { ...options, clouds: [] }, 0);
  checkCancelled(stopped);
  const land = packed(packLand(bare.content));
  const lines = packed(packExtras(bare.content, bare.content.frame));
  const fixed = (land.length + lines.length) * BASE64;
  const jpeg =
    options.pictureId === undefined
      ? undefined
      : await drapeOver(
          models,
          options.pictureId,
          framePlan(bare.content.frame),
          Math.max(60_000, ((most - fixed) / BASE64) * 0.6),
        );
  checkCancelled(stopped);
  const left = most - fixed - (jpeg?.length ?? 0) * BASE64;
  let points = Math.max(0, Math.min(MOST_POINTS, Math.floor(left / BASE64 / BYTES_A_POINT)));
  for (;;) {
    const { content, facts } =
      points === 0 || options.clouds.length === 0 ? bare : await gatherView(models, job, options, points);
    checkCancelled(stopped);
    const extras = content === bare.content ? lines : packed(packExtras(content, content.frame));
    const html = composed(page, { ...facts, hasPicture: jpeg !== undefined }, { land, extras, jpeg });
    const bytes = Buffer.byteLength(html);
    if (bytes <= options.megabytes * 1e6) {
      await writeFile(target, html);
      return;
    }
    if (content.points.x.length === 0)
      throw new PamperoError('too-large', {
        what: `The land alone takes ${(bytes / 1e6).toFixed(1)} MB, more than the ${options.megabytes} MB allowed.`,
        fix: 'Allow more, or leave out the contours or the picture.',
      });
    points = Math.floor(content.points.x.length * 0.8);
  }
}

const packed = (bytes: Uint8Array): Buffer => deflateSync(bytes, { level: 9 });

/** Text from people goes in as JSON whose every < is written out, so that nothing in it ends the script or becomes a tag. */
function composed(
  page: string,
  facts: ClientViewFacts,
  { land, extras, jpeg }: { readonly land: Buffer; readonly extras: Buffer; readonly jpeg: Buffer | undefined },
): string {
  const json = JSON.stringify(facts)
    .replaceAll('<', '\\u003c')
    .replaceAll('\u2028', '\\u2028')
    .replaceAll('\u2029', '\\u2029');
  const held = (id: string, bytes: Buffer): string =>
    `<script type="text/plain" id="${id}">${bytes.toString('base64')}</script>`;
  const put = (text: string, mark: string, what: string): string => {
    const at = text.indexOf(mark);
    return text.slice(0, at) + what + text.slice(at + mark.length);
  };
  const first = `<script type="application/json" id="facts">${json}</script>\n${held('land', land)}`;
  const later = [...(jpeg ? [held('picture', jpeg)] : []), held('extras', extras)].join('\n');
  return put(put(page, LATER, later), FIRST, first);
}
