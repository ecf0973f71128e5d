import { isSoftRole, type LineRole, type LineShape } from '../../lines/index.js';
import { escapeXml } from '../xml-text.js';
import { landXmlHead, type LandXmlHead } from './landxml-head.js';

export interface CodedLine extends LineShape {
  readonly code: string;
  readonly role: LineRole;
  /** Where it came from, in a few words. */
  readonly provenance: string;
}

/**
 * Lines as LandXML 1.2: what shapes a surface as the source data of one (breaklines, boundaries), everything else as plan features.
 * Corners are "northing easting elevation"; a line with a corner that has no elevation is written in plan. Yields pieces of text.
 */
export function* linesToLandXml(lines: readonly CodedLine[], name: string, head: LandXmlHead): Generator<string> {
  yield landXmlHead(head);
  const of = (isOf: (role: LineRole) => boolean): [CodedLine, number][] =>
    lines.flatMap((line, k): [CodedLine, number][] => (isOf(line.role) ? [[line, k + 1]] : []));
  const bounds = of((role) => role === 'boundary' || role === 'hole');
  const features = of((role) => role === 'plain');
  const breaks = of((role) => role !== 'boundary' && role !== 'hole' && role !== 'plain');
  const about = ({ code, provenance }: CodedLine, k: number): string =>
    `name="${escapeXml(`${code} ${k}`)}" desc="${escapeXml(provenance)}"`;
  if (bounds.length + breaks.length > 0) {
    yield `  <Surfaces>\n    <Surface name="${escapeXml(name)}" desc="${escapeXml(head.provenance)}">\n      <SourceData>\n`;
    if (bounds.length > 0) yield '        <Boundaries>\n';
    for (const [line, k] of bounds)
      yield `          <Boundary ${about(line, k)} bndType="${line.role === 'hole' ? 'void' : 'outer'}" edgeTrim="false">${list(line)}</Boundary>\n`;
    if (bounds.length > 0) yield '        </Boundaries>\n';
    if (breaks.length > 0) yield '        <Breaklines>\n';
    for (const [line, k] of breaks)
      yield `          <Breakline ${about(line, k)} brkType="${isSoftRole(line.role) ? 'nondestructive' : 'standard'}">${list(line)}</Breakline>\n`;
    if (breaks.length > 0) yield '        </Breaklines>\n';
    yield '      </SourceData>\n    </Surface>\n  </Surfaces>\n';
  }
  if (features.length > 0) yield `  <PlanFeatures name="${escapeXml(name)}">\n`;
  for (const [line, k] of features) {
    const corners = cornersOf(line);
    yield `    <PlanFeature ${about(line, k)}><CoordGeom><IrregularLine><Start>${corners[0]}</Start><End>${corners.at(-1)}</End>${list(line)}</IrregularLine></CoordGeom></PlanFeature>\n`;
  }
  if (features.length > 0) yield '  </PlanFeatures>\n';
  yield '</LandXML>\n';
}

function cornersOf({ easting, northing, elevation, isClosed }: LineShape): string[] {
  const has3D = elevation.every((z) => !Number.isNaN(z));
  const corners = Array.from(easting, (e, k) => `${northing[k]!.toFixed(4)} ${e.toFixed(4)}${has3D ? ` ${elevation[k]!.toFixed(4)}` : ''}`); // prettier-ignore
  return isClosed ? [...corners, corners[0]!] : corners;
}

function list(line: LineShape): string {
  const tag = line.elevation.every((z) => !Number.isNaN(z)) ? 'PntList3D' : 'PntList2D';
  return `<${tag}>${cornersOf(line).join(' ')}</${tag}>`;
}
