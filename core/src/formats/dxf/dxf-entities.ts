import { FormatError } from '../format-error.js';

export interface DxfVertex {
  readonly x: number;
  readonly y: number;
  readonly z: number;
}

/** A line, polyline or face of a drawing, in the drawing's own coordinates. */
export interface DxfEntity {
  readonly type: 'LINE' | 'POLYLINE' | 'LWPOLYLINE' | '3DFACE';
  readonly layer: string;
  readonly vertices: readonly DxfVertex[];
  readonly isClosed: boolean;
}

/** Flags of a polyline and of its vertices, group code 70. */
const [CLOSED, SPLINE_FITTED, IN_SPACE, MESH, POLYFACE] = [1, 4, 8, 16, 64];
const SPLINE_FRAME = 16;

/** One entity as its groups tell it, before it is known to be whole. */
interface Draft {
  readonly type: string;
  /** Line of the file that names the entity. */
  readonly line: number;
  layer: string;
  flags: number;
  /** Of a flat polyline, for all of its vertices. */
  level: number;
  isSeenFromBelow: boolean;
  /** Of a polyline: its own place was taken out of the columns. */
  isPlaced: boolean;
  readonly x: number[];
  readonly y: number[];
  readonly z: number[];
}

/**
 * Reads lines, polylines and 3D faces of an ASCII DXF text, group after group, as the public DXF reference of release 12 and its
 * successors lay them out: pairs of lines, a code and a value. Whatever the text holds, each line is looked at once.
 * Blocks and other entities are passed over.
 * @throws FormatError naming the line that is wrong
 */
export function* readDxfEntities(text: string, fileName: string): Generator<DxfEntity> {
  const wrong = (what: string, line: number): FormatError =>
    new FormatError('not-this-format', {
      what: `${fileName} cannot be read as DXF: ${what}.`,
      where: `line ${line}`,
      fix: 'Save it as ASCII DXF.',
    });
  let section = '';
  let isNamingSection = false;
  let draft: Draft | undefined;
  let polyline: Draft | undefined;
  let hasEnded = false;
  for (const { code, value, line } of groupsOf(text, wrong)) {
    if (code !== 0) {
      if (isNamingSection && code === 2) {
        section = value;
        isNamingSection = false;
      } else if (draft) addGroup(draft, code, value, line, wrong);
      continue;
    }
    if (draft) {
      if (polyline && draft.type === 'VERTEX') addVertex(polyline, draft);
      else if (draft.type !== 'POLYLINE') yield* finished(draft, wrong);
      draft = undefined;
    }
    // What is no further vertex ends a polyline, also where its own end is missing.
    if (polyline && value !== 'VERTEX') {
      yield* finished(polyline, wrong);
      polyline = undefined;
    }
    if (value === 'EOF') {
      hasEnded = true;
      break;
    }
    if (value === 'SECTION') isNamingSection = true;
    else if (value === 'ENDSEC') section = '';
    else if (section === 'ENTITIES' && READ.has(value)) {
      draft = newDraft(value, line);
      if (value === 'POLYLINE') polyline = draft;
    }
  }
  if (!hasEnded)
    throw new FormatError('file-ends-early', {
      what: `${fileName} breaks off: its last line is not the end of a drawing (EOF).`,
      fix: 'Copy the file again, or save it again from its source.',
    });
}

const READ: ReadonlySet<string> = new Set(['LINE', 'POLYLINE', 'VERTEX', 'LWPOLYLINE', '3DFACE']);

function newDraft(type: string, line: number): Draft {
  return { type, line, layer: '', flags: 0, level: 0, isSeenFromBelow: false, isPlaced: false, x: [], y: [], z: [] };
}

type Wrong = (what: string, line: number) => FormatError;

/** Pairs of lines, without copying the text. */
function* groupsOf(text: string, wrong: Wrong): Generator<{ code: number; value: string; line: number }> {
  let at = text.charCodeAt(0) === 0xfeff ? 1 : 0;
  let line = 0;
  const next = (): string => {
    let end = text.indexOf('\n', at);
    if (end === -1) end = text.length;
    const of = text.slice(at, end).trim();
    at = end + 1;
    line++;
    return of;
  };
  while (at < text.length) {
    const written = next();
    if (written === '' && at >= text.length) return;
    const code = Number(written);
    if (written === '' || !Number.isInteger(code) || Math.abs(code) > 2000)
      throw wrong(`“${written.slice(0, 40)}” is no group code`, line);
    if (at >= text.length) return;
    const value = next();
    if (code !== 999) yield { code, value, line };
  }
}

function addGroup(draft: Draft, code: number, value: string, line: number, wrong: Wrong): void {
  const number = (): number => {
    const of = Number(value);
    if (value === '' || !Number.isFinite(of)) throw wrong(`“${value.slice(0, 40)}” is no number`, line);
    return of;
  };
  if (code === 8) draft.layer = value;
  else if (code === 70) draft.flags = number();
  else if (code === 230) draft.isSeenFromBelow = number() < 0;
  else if (draft.type === 'LWPOLYLINE') {
    // One vertex after the other, all under the same codes.
    if (code === 10) draft.x.push(number());
    else if (code === 20) draft.y.push(number());
    else if (code === 38) draft.level = number();
  } else if (code >= 10 && code <= 13) draft.x[code - 10] = number();
  else if (code >= 20 && code <= 23) draft.y[code - 20] = number();
  else if (code >= 30 && code <= 33) draft.z[code - 30] = number();
}

function addVertex(polyline: Draft, vertex: Draft): void {
  leaveOwnPlace(polyline);
  if ((polyline.flags & SPLINE_FITTED) !== 0 && (vertex.flags & SPLINE_FRAME) !== 0) return;
  const at = polyline.x.length;
  polyline.x[at] = vertex.x[0] ?? NaN;
  polyline.y[at] = vertex.y[0] ?? NaN;
  polyline.z[at] = vertex.z[0] ?? 0;
}

/** The place a polyline itself states is that of its plane, and no vertex. */
function leaveOwnPlace(polyline: Draft): void {
  if (polyline.isPlaced) return;
  polyline.isPlaced = true;
  polyline.level = polyline.z[0] ?? 0;
  for (const column of [polyline.x, polyline.y, polyline.z]) column.length = 0;
}

function* finished(draft: Draft, wrong: Wrong): Generator<DxfEntity> {
  const { type, flags, line, layer } = draft;
  if (type === 'VERTEX') return; // one outside a polyline belongs to nothing
  const isMesh = type === 'POLYLINE' && (flags & (MESH | POLYFACE)) !== 0;
  if (isMesh) return;
  if (type === 'POLYLINE') leaveOwnPlace(draft);
  const isFlat = type === 'LWPOLYLINE' || (type === 'POLYLINE' && (flags & IN_SPACE) === 0);
  const { level } = draft;
  const vertices: DxfVertex[] = [];
  for (let k = 0; k < Math.max(draft.x.length, draft.y.length); k++) {
    const [x, y] = [draft.x[k], draft.y[k]];
    if (x === undefined || y === undefined || Number.isNaN(x) || Number.isNaN(y))
      throw wrong(`vertex ${k + 1} of the ${type} here has no place`, line);
    const z = type === 'LWPOLYLINE' ? level : (draft.z[k] ?? 0);
    // A flat entity drawn from below counts its first axis the other way.
    vertices.push({ x: isFlat && draft.isSeenFromBelow ? -x : x, y, z: isFlat && z === 0 ? level : z });
  }
  const isClosed = (type === 'POLYLINE' || type === 'LWPOLYLINE') && (flags & CLOSED) !== 0;
  yield { type: type as DxfEntity['type'], layer, vertices, isClosed };
}
