import { planTransform } from '@pampero/core/geodesy';
import type { PaperBox } from '@pampero/core/plans';
import type { PlanBounds } from '@pampero/core/raster';

const MM = 72 / 25.4;
/** A dictionary without a stream: whatever else is given would become one. */
const NOTHING = undefined as never;
/** What of a PROJ string says which datum it is on. */
const DATUM = /\+(?:datum|ellps|a|b|rf|R|towgs84|nadgrids|pm)=\S+/g;

/**
 * Says on the current page where its map lies, so that a reader of maps opens the sheet at its place: a viewport with a geospatial
 * measure dictionary, ISO 32000-2:2020, 12.9 and 12.10.
 */
export function placePage(
  pdf: PDFKit.PDFDocument,
  map: PaperBox,
  { west, south, east, north }: PlanBounds,
  system: { readonly epsg: number; readonly proj4: string; readonly wkt: string | undefined },
): void {
  const easting = Float64Array.of(west, west, east, east);
  const northing = Float64Array.of(south, north, north, south);
  planTransform(system.proj4, `+proj=longlat ${(system.proj4.match(DATUM) ?? []).join(' ')} +no_defs`)(
    easting,
    northing,
  );
  const bottom = pdf.page.height - (map.y + map.height) * MM;
  const left = map.x * MM;
  const measure = pdf.ref({
    Type: 'Measure',
    Subtype: 'GEO',
    Bounds: [0, 0, 0, 1, 1, 1, 1, 0],
    LPTS: [0, 0, 0, 1, 1, 1, 1, 0],
    GPTS: Array.from(easting, (longitude, k) => [new Degrees(northing[k]!), new Degrees(longitude)]).flat(),
    GCS: {
      Type: 'PROJCS',
      EPSG: system.epsg,
      // Text of PDF; a plain string would be a name.
      ...(system.wkt !== undefined && { WKT: new String(system.wkt) }),
    },
  });
  measure.end(NOTHING);
  const viewport = pdf.ref({
    Type: 'Viewport',
    BBox: [left, bottom, left + map.width * MM, bottom + map.height * MM],
    Name: new String('Map'),
    Measure: measure,
  });
  viewport.end(NOTHING);
  (pdf.page.dictionary.data as Record<string, unknown>)['VP'] = [viewport];
}

/** Written whole: six decimals, as numbers get by themselves, are a decimetre on land. */
class Degrees {
  readonly [Symbol.toStringTag] = 'Degrees';

  constructor(private readonly value: number) {}

  toString(): string {
    return this.value.toFixed(11);
  }
}
