import type { FormatOf, ProductOf } from '@pampero/contract';
import { linesToDxf } from '@pampero/core/formats/dxf';
import { linesToLandXml } from '@pampero/core/formats/landxml';
import { geoJsonSystem } from '@pampero/core/formats/lines';
import {
  CORNER_SOURCE_NAMES,
  CORNER_SOURCES,
  fillElevations,
  packLines,
  planLength,
  type FeatureCode,
  type FeatureLine,
} from '@pampero/core/lines';
import { packArrays } from '@pampero/core/binary';
import type { PlanBounds } from '@pampero/core/raster';
import { lineInSquare } from '@pampero/core/squares';
import type { AttributedLine } from '@pampero/core/formats/shapefile';
import { newCode, readCodes } from '../store/code-repository.js';
import { describeEntries } from '../store/history-repository.js';
import { readLines, readLinesSince } from '../store/line-repository.js';
import type { Models } from '../store/models.js';
import { csvTable } from './csv-table.js';
import { writeGeoPackage } from './geopackage.js';
import { wktOf, zippedShapefile } from './line-attributes.js';
import { dxfWithHead, type ExportSite, type ProductHome, type WrittenFile } from './product-home.js';

type Lines = ProductOf<'lines'>;

/** A line with all that goes out beside its corners. */
interface LeavingLine {
  readonly line: FeatureLine;
  readonly of: FeatureCode;
  /** Which step of the field book gave it its shape, and when. */
  readonly madeBy: string;
}

async function leaving(site: ExportSite, sets: readonly Lines[]): Promise<LeavingLine[]> {
  const out: LeavingLine[] = [];
  for (const set of sets) out.push(...(await leavingOf(site, set)));
  return out;
}

async function leavingOf({ models, job }: ExportSite, { id, facts: { code, role } }: Lines): Promise<LeavingLine[]> {
  const lines = (await readLines(models, id)).flatMap((line) => partsOf(line, job.square?.land));
  const codes = await readCodes(models);
  const of = codes.find((known) => known.code === code) ?? newCode(code, role, codes);
  const made = await describeEntries(models, [...new Set(lines.map(({ entry }) => entry))]);
  return lines.map((line) => ({ line, of, madeBy: made.get(line.entry) ?? 'an earlier version' }));
}

/** A line as it leaves: whole, or what of it belongs to the square of the job. */
const partsOf = (line: FeatureLine, square: PlanBounds | undefined): FeatureLine[] =>
  square ? lineInSquare(line, square).map((shape) => ({ ...line, ...shape })) : [line];

/** Where the elevations of a line come from: "measured point 12, typed 2". */
function sourcesOf({ source }: FeatureLine): string {
  const counts = new Map<number, number>();
  for (const each of source) counts.set(each, (counts.get(each) ?? 0) + 1);
  return [...counts]
    .sort(([a], [b]) => a - b)
    .map(([each, count]) => `${CORNER_SOURCE_NAMES[CORNER_SOURCES[each] ?? 'none']} ${count}`)
    .join(', ');
}

/** Corners to the end, the first again where it closes; a line without elevations lies at 0 and says so in its attributes. */
function attributed({ line, of, madeBy }: LeavingLine): AttributedLine {
  const { easting, northing, elevation, isClosed } = fillElevations(line);
  const round = (values: Float64Array): number[] => {
    const list = Array.from(values, (value) => (Number.isNaN(value) ? 0 : value));
    return isClosed ? [...list, list[0]!] : list;
  };
  return {
    ...{ easting: round(easting), northing: round(northing), elevation: round(elevation) },
    attributes: {
      ...{ id: line.key, code: of.code, meaning: of.meaning, use: of.role, length: planLength(line) },
      ...{ elevations: sourcesOf(line), made_by: madeBy },
    },
  };
}

/** GeoJSON in the job's coordinates; corners without an elevation have two numbers. */
function asGeoJson(lines: readonly LeavingLine[], epsg: number | undefined): string {
  return JSON.stringify({
    type: 'FeatureCollection',
    ...geoJsonSystem(epsg),
    features: lines.map((leaves) => {
      const { easting, northing, elevation, isClosed } = leaves.line;
      const corners = Array.from(easting, (e, k) => [e, northing[k]!, ...(Number.isNaN(elevation[k]!) ? [] : [elevation[k]!])]); // prettier-ignore
      return {
        type: 'Feature',
        properties: attributed(leaves).attributes,
        geometry: { type: 'LineString', coordinates: isClosed ? [...corners, corners[0]] : corners },
      };
    }),
  });
}

/** Points in their order, numbered on; the code has the number of its line after it, so that each is a string of its own. */
function asList(lines: readonly LeavingLine[]): string {
  let number = 0;
  return csvTable(
    lines.flatMap(({ line, of }, k) => {
      const { easting, northing, elevation, isClosed } = fillElevations(line);
      const corners = [...easting.keys(), ...(isClosed ? [0] : [])];
      return corners.map((c) => {
        const z = elevation[c]!;
        const places = [northing[c]!, easting[c]!, Number.isNaN(z) ? 0 : z].map((value) => value.toFixed(3));
        return [String(++number), ...places, `${of.code} ${k + 1}`];
      });
    }),
  );
}

async function shown(models: Models, id: number, since: number | undefined): Promise<Uint8Array> {
  if (since === undefined) return packLines(await readLines(models, id));
  const { came, gone } = await readLinesSince(models, id, since);
  return packArrays({ gone: Uint32Array.from(gone), came: packLines(came) }, {});
}

type WriteLines = (site: ExportSite, sets: readonly Lines[], name: string) => Promise<WrittenFile>;

/** How the lines of one code, or of several in one file, are written. */
const together: Record<FormatOf<'lines'>, WriteLines> = {
  dxf: async (site, sets) => ({
    pieces: dxfWithHead(
      site,
      sets,
      linesToDxf(
        (await leaving(site, sets)).map(({ line, of }) => ({ ...line, of })),
        site.job.unit,
      ),
    ),
  }),
  async landxml(site, sets, name) {
    const { job } = site;
    const lines = (await leaving(site, sets)).map(({ line, of, madeBy }) => ({
      ...line,
      ...{ code: of.code, role: of.role, provenance: `${madeBy}; elevations: ${sourcesOf(line)}` },
    }));
    const head = {
      ...{ projectName: job.name, unit: job.unit, written: new Date() },
      provenance: `Lines of ${sets.map(({ facts }) => facts.code).join(', ')}`,
      ...(job.crs.epsg !== undefined && { epsg: job.crs.epsg }),
      ...(job.crs.name !== undefined && { crsName: job.crs.name }),
    };
    return { pieces: linesToLandXml(lines, name, head) };
  },
  async gpkg(site, sets, name) {
    const lines = (await leaving(site, sets)).map(attributed);
    await writeGeoPackage(site.target, name, lines, { epsg: site.job.crs.epsg, wkt: wktOf(site) });
    return { isWritten: true };
  },
  shp: async (site, sets, name) => ({
    bytes: zippedShapefile((await leaving(site, sets)).map(attributed), name, wktOf(site)),
  }),
  geojson: async (site, sets) => ({ bytes: asGeoJson(await leaving(site, sets), site.job.crs.epsg) }),
  csv: async (site, sets) => ({ bytes: asList(await leaving(site, sets)) }),
};

const ofOne =
  (format: FormatOf<'lines'>) =>
  (site: ExportSite, set: Lines): Promise<WrittenFile> =>
    together[format](site, [set], set.name);

export const home: ProductHome<'lines'> = {
  kind: 'lines',
  shown: async (models, id, { since }) => ({ packed: await shown(models, id, since) }),
  writers: {
    dxf: ofOne('dxf'),
    landxml: ofOne('landxml'),
    gpkg: ofOne('gpkg'),
    shp: ofOne('shp'),
    geojson: ofOne('geojson'),
    csv: ofOne('csv'),
  },
  together,
};
