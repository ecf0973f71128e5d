import type { CrsDescription } from './crs-description.js';
import { unitForEpsg, type LengthUnit } from './units.js';

/**
 * Reads the facts a survey needs from well-known text, version 1 (OGC 01-009) or 2 (ISO 19162): names, EPSG codes and
 * units of the horizontal and the vertical part. The text is scanned as nested keywords, so unknown parts do no harm.
 * @returns `undefined` when the text holds no coordinate reference system
 */
export function crsFromWkt(wkt: string): CrsDescription | undefined {
  const root = parseNode(wkt.replace(/\0+$/, '').trim());
  if (
    !root ||
    !/^(COMPD_?CS|COMPOUNDCRS|PROJCS|PROJCRS|PROJECTEDCRS|GEOGCS|GEOGCRS|GEODCRS|BOUNDCRS|VERT_?CS|VERTCRS)$/.test(
      root.keyword,
    )
  )
    return undefined;
  const horizontal = find(root, /^(PROJCS|PROJCRS|PROJECTEDCRS)$/);
  const geographic = horizontal ? undefined : find(root, /^(GEOGCS|GEOGCRS|GEODCRS)$/);
  const vertical = find(root, /^(VERT_?CS|VERTCRS|VERTICALCRS)$/);
  const plane = horizontal ?? geographic;
  const epsg = plane && epsgOf(plane);
  const verticalEpsg = vertical && epsgOf(vertical);
  const horizontalUnit = horizontal && unitOf(horizontal);
  const verticalUnit = vertical && unitOf(vertical);
  const name = (root.keyword.startsWith('COMP') ? root.text : plane?.text) ?? root.text;
  return {
    wkt,
    ...(epsg !== undefined && { epsg }),
    ...(verticalEpsg !== undefined && { verticalEpsg }),
    ...(name !== undefined && { name }),
    ...(horizontalUnit && { horizontalUnit }),
    ...(verticalUnit && { verticalUnit }),
    ...(geographic && { isGeographic: true }),
  };
}

interface WktNode {
  readonly keyword: string;
  /** The first quoted string. */
  text: string | undefined;
  readonly numbers: number[];
  readonly strings: string[];
  readonly children: WktNode[];
}

/** One pass with an explicit stack, so that no depth of nesting in a damaged file can exhaust the call stack. */
function parseNode(wkt: string): WktNode | undefined {
  const token = /([A-Za-z_][A-Za-z0-9_]*)\s*[[(]|"((?:[^"]|"")*)"|([-+]?\d+\.?\d*(?:[eE][-+]?\d+)?)|[\])]/g;
  let root: WktNode | undefined;
  const open: WktNode[] = [];
  for (let match = token.exec(wkt); match; match = token.exec(wkt)) {
    const parent = open.at(-1);
    if (match[1]) {
      const node: WktNode = {
        keyword: match[1].toUpperCase(),
        text: undefined,
        numbers: [],
        strings: [],
        children: [],
      };
      if (parent) parent.children.push(node);
      else if (root) return root;
      root ??= node;
      open.push(node);
    } else if (match[2] !== undefined) {
      if (parent) {
        parent.text ??= match[2];
        parent.strings.push(match[2]);
      }
    } else if (match[3] !== undefined) parent?.numbers.push(Number(match[3]));
    else {
      open.pop();
      if (open.length === 0) return root;
    }
  }
  return root;
}

function find(node: WktNode, keyword: RegExp): WktNode | undefined {
  const queue = [node];
  for (let next = queue.shift(); next; next = queue.shift()) {
    if (keyword.test(next.keyword)) return next;
    queue.push(...next.children);
  }
  return undefined;
}

function epsgOf(node: WktNode): number | undefined {
  const id = node.children.find((c) => /^(AUTHORITY|ID)$/.test(c.keyword) && /^epsg$/i.test(c.text ?? ''));
  const code = id && Number(id.numbers[0] ?? id.strings[1]);
  return code !== undefined && Number.isInteger(code) && code > 0 ? code : undefined;
}

/** The linear unit of the system itself: its own UNIT, or the one its axes share (version 2). */
function unitOf(node: WktNode): LengthUnit | undefined {
  const axisUnit = node.children.filter((c) => c.keyword === 'AXIS').flatMap((axis) => axis.children);
  const unit = [...node.children, ...axisUnit].find((c) => /^(UNIT|LENGTHUNIT)$/.test(c.keyword));
  const metres = unit?.numbers[0];
  if (unit === undefined || metres === undefined) return undefined;
  const coded = unitForEpsg(epsgOf(unit) ?? 0);
  if (coded) return coded;
  if (metres === 1) return 'metre';
  // 0.3048006096… and 0.3048 differ in the seventh figure: half of that tells them apart.
  if (Math.abs(metres - 1200 / 3937) < 3e-7) return 'us-survey-foot';
  return Math.abs(metres - 0.3048) < 3e-7 ? 'international-foot' : undefined;
}
