import type { LengthUnit } from '../../geodesy/index.js';
import { tinFacts, type TerrainLine, type Tin } from '../../terrain/index.js';
import { escapeXml } from '../xml-text.js';

export interface LandXmlOptions {
  readonly surfaceName: string;
  readonly projectName: string;
  readonly unit: LengthUnit;
  readonly epsg?: number;
  readonly crsName?: string;
  /** Where the surface came from, in a sentence; written as its description. */
  readonly provenance: string;
  readonly written: Date;
  /** Lines the surface was made with: breaklines, boundaries, holes, water. */
  readonly lines?: readonly TerrainLine[];
}

/** Unit elements of the LandXML 1.2 schema (types `Metric` and `Imperial`). */
const UNITS: Readonly<Record<LengthUnit, string>> = {
  metre:
    '<Metric linearUnit="meter" areaUnit="squareMeter" volumeUnit="cubicMeter" temperatureUnit="celsius" pressureUnit="HPA"/>',
  'us-survey-foot':
    '<Imperial linearUnit="USSurveyFoot" areaUnit="squareFoot" volumeUnit="cubicFeet" temperatureUnit="fahrenheit" pressureUnit="inHG"/>',
  'international-foot':
    '<Imperial linearUnit="foot" areaUnit="squareFoot" volumeUnit="cubicFeet" temperatureUnit="fahrenheit" pressureUnit="inHG"/>',
};

/**
 * One TIN surface as LandXML 1.2: points "northing easting elevation", faces by point number, unit declared. Points that no
 * facet uses are left out. Yields pieces of text of about 64 kB.
 */
export function* surfaceToLandXml(tin: Tin, options: LandXmlOptions): Generator<string> {
  const { origin, easting, northing, elevation, facets } = tin;
  const facts = tinFacts(tin);
  const date = options.written.toISOString();
  const crs = [
    options.crsName && ` name="${escapeXml(options.crsName)}"`,
    options.epsg !== undefined && ` epsgCode="${options.epsg}"`,
  ]
    .filter(Boolean)
    .join('');
  yield `<?xml version="1.0" encoding="UTF-8"?>
<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance" xsi:schemaLocation="http://www.landxml.org/schema/LandXML-1.2 http://www.landxml.org/schema/LandXML-1.2/LandXML-1.2.xsd" version="1.2" date="${date.slice(0, 10)}" time="${date.slice(11, 19)}" readOnly="false" language="English">
  <Units>${UNITS[options.unit]}</Units>
  ${crs && `<CoordinateSystem${crs}/>`}
  <Project name="${escapeXml(options.projectName)}"/>
  <Application name="Pampero" desc="${escapeXml(options.provenance)}"/>
  <Surfaces>
    <Surface name="${escapeXml(options.surfaceName)}" desc="${escapeXml(options.provenance)}">
${sourceData(options.lines ?? [])}      <Definition surfType="TIN" area2DSurf="${facts.areaInPlan.toFixed(3)}" area3DSurf="${facts.areaOnSlope.toFixed(3)}" elevMax="${facts.highest.toFixed(4)}" elevMin="${facts.lowest.toFixed(4)}">
        <Pnts>
`;
  const used = new Uint8Array(easting.length);
  for (const corner of facets) used[corner] = 1;
  const number = new Uint32Array(easting.length);
  let text = '';
  for (let i = 0, next = 1; i < easting.length; i++) {
    if (used[i] === 0) continue;
    number[i] = next;
    text += `<P id="${next++}">${(northing[i]! + origin[1]).toFixed(4)} ${(easting[i]! + origin[0]).toFixed(4)} ${elevation[i]!.toFixed(4)}</P>\n`;
    if (text.length > 65_536) {
      yield text;
      text = '';
    }
  }
  text += '        </Pnts>\n        <Faces>\n';
  for (let f = 0; f < facets.length; f += 3) {
    text += `<F>${number[facets[f]!]} ${number[facets[f + 1]!]} ${number[facets[f + 2]!]}</F>\n`;
    if (text.length > 65_536) {
      yield text;
      text = '';
    }
  }
  yield `${text}        </Faces>
      </Definition>
    </Surface>
  </Surfaces>
</LandXML>
`;
}

/** Breaklines and boundaries as they were given; corners without an elevation in plan only. */
function sourceData(lines: readonly TerrainLine[]): string {
  if (lines.length === 0) return '';
  const list = ({ easting, northing, elevation, isClosed }: TerrainLine): string => {
    const has3D = elevation.every((z) => !Number.isNaN(z));
    const corners = easting.map(
      (e, k) => `${northing[k]!.toFixed(4)} ${e.toFixed(4)}${has3D ? ` ${elevation[k]!.toFixed(4)}` : ''}`,
    );
    const tag = has3D ? 'PntList3D' : 'PntList2D';
    return `<${tag}>${(isClosed ? [...corners, corners[0]!] : corners).join(' ')}</${tag}>`;
  };
  const bounds = lines.filter(({ role }) => role === 'boundary' || role === 'hole');
  const breaks = lines.filter(({ role }) => role === 'breakline' || role === 'soft' || role === 'water');
  const boundaries = bounds.map(
    (line, k) =>
      `          <Boundary name="B${k + 1}" bndType="${line.role === 'hole' ? 'void' : 'outer'}" edgeTrim="false">${list(line)}</Boundary>\n`,
  );
  const breaklines = breaks.map(
    (line, k) =>
      `          <Breakline name="L${k + 1}" brkType="${line.role === 'soft' ? 'nondestructive' : 'standard'}">${list(line)}</Breakline>\n`,
  );
  const part = (name: string, items: readonly string[]): string =>
    items.length === 0 ? '' : `        <${name}>\n${items.join('')}        </${name}>\n`;
  return `      <SourceData>\n${part('Boundaries', boundaries)}${part('Breaklines', breaklines)}      </SourceData>\n`;
}
