import { isSoftRole } from '../../lines/index.js';
import { tinFacts, type TerrainLine, type Tin } from '../../terrain/index.js';
import { escapeXml } from '../xml-text.js';
import { landXmlHead, type LandXmlHead } from './landxml-head.js';

export interface LandXmlOptions extends LandXmlHead {
  readonly surfaceName: string;
  /** Lines the surface was made with: breaklines, boundaries, holes, water. */
  readonly lines?: readonly TerrainLine[];
}

/**
 * One TIN surface as LandXML 1.2: points "northing easting elevation", faces by point number, unit declared. Points that no
 * facet uses are left out. Yields pieces of text of about 64 kB.
 */
export function* surfaceToLandXml(tin: Tin, options: LandXmlOptions): Generator<string> {
  const { origin, easting, northing, elevation, facets } = tin;
  const facts = tinFacts(tin);
  yield `${landXmlHead(options)}  <Surfaces>
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
  const breaks = lines.filter(({ role }) => role !== 'boundary' && role !== 'hole');
  const boundaries = bounds.map(
    (line, k) =>
      `          <Boundary name="B${k + 1}" bndType="${line.role === 'hole' ? 'void' : 'outer'}" edgeTrim="false">${list(line)}</Boundary>\n`,
  );
  const breaklines = breaks.map(
    (line, k) =>
      `          <Breakline name="L${k + 1}" brkType="${isSoftRole(line.role) ? 'nondestructive' : 'standard'}">${list(line)}</Breakline>\n`,
  );
  const part = (name: string, items: readonly string[]): string =>
    items.length === 0 ? '' : `        <${name}>\n${items.join('')}        </${name}>\n`;
  return `      <SourceData>\n${part('Boundaries', boundaries)}${part('Breaklines', breaklines)}      </SourceData>\n`;
}
