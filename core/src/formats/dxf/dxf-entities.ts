import { flattenArc, flattenBulge, flattenSpline, splineFault } from '../curves/index.js';
import { FormatError } from '../format-error.js';

export interface DxfVertex {
  readonly x: number;
  readonly y: number;
  readonly z: number;
}

/** A line, curve or face of a drawing, in the drawing's own coordinates; arcs and splines as legs near enough to them. */
export interface DxfEntity {
  readonly type: 'LINE' | 'POLYLINE' | 'LWPOLYLINE' | 'ARC' | 'CIRCLE' | 'SPLINE' | '3DFACE';
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
  /** By vertex, where the leg after it is an arc. */
  readonly bulges: number[];
  /** Of a spline. */
  readonly knots: number[];
  readonly weights: number[];
  readonly fit: { readonly x: number[]; readonly y: number[]; readonly z: number[] };
  /** Other figures by their group code: radius, angles, degree. */
  readonly figures: Map<number, number>;
}

/**
 * Reads lines, polylines, arcs, circles, splines and 3D faces of an ASCII DXF text, group after group, as the public DXF reference of release 12 and its
 * successors lay them out: pairs of lines, a code and a value. Whatever the text holds, each line is looked at once.
 * Blocks and other entities are passed over.
 * @param tolerance - how near to arcs and splines their legs stay
 * @throws FormatError naming the line that is wrong
 */
export function* readDxfEntities(text: string, fileName: string, tolerance = 0.01): Generator<DxfEntity> {
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
      else if (draft.type !== 'POLYLINE') yield* finished(draft, wrong, tolerance);
      draft = undefined;
    }
    // What is no further vertex ends a polyline, also where its own end is missing.
    if (polyline && value !== 'VERTEX') {
      yield* finished(polyline, wrong, tolerance);
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

const READ: ReadonlySet<string> = new Set([
  'LINE',
  'POLYLINE',
  'VERTEX',
  'LWPOLYLINE',
  'ARC',
  'CIRCLE',
  'SPLINE',
  '3DFACE',
]);

function newDraft(type: string, line: number): Draft {
  return {
    ...{ type, line, layer: '', flags: 0, level: 0, isSeenFromBelow: false, isPlaced: false },
    ...{ x: [], y: [], z: [], bulges: [], knots: [], weights: [], fit: { x: [], y: [], z: [] }, figures: new Map() },
  };
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
    else if (code === 42) draft.bulges[draft.x.length - 1] = number();
  } else if (draft.type === 'SPLINE') addToSpline(draft, code, number);
  else if (code === 42 && draft.type === 'VERTEX') draft.bulges[0] = number();
  else if ((code === 40 || code === 50 || code === 51) && CURVES.has(draft.type)) draft.figures.set(code, number());
  else if (code >= 10 && code <= 13) draft.x[code - 10] = number();
  else if (code >= 20 && code <= 23) draft.y[code - 20] = number();
  else if (code >= 30 && code <= 33) draft.z[code - 30] = number();
}

const CURVES: ReadonlySet<string> = new Set(['ARC', 'CIRCLE']);

function addToSpline(draft: Draft, code: number, number: () => number): void {
  if (code === 71) draft.figures.set(code, number());
  else if (code === 40) draft.knots.push(number());
  else if (code === 41) draft.weights.push(number());
  else if (code === 10) draft.x.push(number());
  else if (code === 20) draft.y.push(number());
  else if (code === 30) draft.z.push(number());
  else if (code === 11) draft.fit.x.push(number());
  else if (code === 21) draft.fit.y.push(number());
  else if (code === 31) draft.fit.z.push(number());
}

function addVertex(polyline: Draft, vertex: Draft): void {
  leaveOwnPlace(polyline);
  if ((polyline.flags & SPLINE_FITTED) !== 0 && (vertex.flags & SPLINE_FRAME) !== 0) return;
  const at = polyline.x.length;
  polyline.x[at] = vertex.x[0] ?? NaN;
  polyline.y[at] = vertex.y[0] ?? NaN;
  polyline.z[at] = vertex.z[0] ?? 0;
  if (vertex.bulges[0] !== undefined) polyline.bulges[at] = vertex.bulges[0];
}

/** The place a polyline itself states is that of its plane, and no vertex. */
function leaveOwnPlace(polyline: Draft): void {
  if (polyline.isPlaced) return;
  polyline.isPlaced = true;
  polyline.level = polyline.z[0] ?? 0;
  for (const column of [polyline.x, polyline.y, polyline.z]) column.length = 0;
}

function* finished(draft: Draft, wrong: Wrong, tolerance: number): Generator<DxfEntity> {
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
  const isPolyline = type === 'POLYLINE' || type === 'LWPOLYLINE';
  const isClosed = (isPolyline || type === 'SPLINE') && (flags & CLOSED) !== 0;
  const made = { type: type as DxfEntity['type'], layer };
  if (CURVES.has(type)) yield { ...made, ...arcOf(draft, vertices, wrong, tolerance) };
  else if (type === 'SPLINE') yield { ...made, isClosed, vertices: splineOf(draft, vertices, wrong, tolerance) };
  else yield { ...made, isClosed, vertices: isPolyline ? bulged(vertices, draft, isClosed, tolerance) : vertices };
}

/** Vertices with the arcs between them as legs. */
function bulged(
  vertices: readonly DxfVertex[],
  { bulges, isSeenFromBelow }: Draft,
  isClosed: boolean,
  tolerance: number,
): DxfVertex[] {
  if (bulges.length === 0 || vertices.length < 2) return [...vertices];
  const out: DxfVertex[] = [vertices[0]!];
  for (let k = 0; k < vertices.length - (isClosed ? 0 : 1); k++) {
    const bulge = (bulges[k] ?? 0) * (isSeenFromBelow ? -1 : 1);
    out.push(...flattenBulge(vertices[k]!, vertices[(k + 1) % vertices.length]!, bulge, tolerance));
  }
  return isClosed ? out.slice(0, -1) : out;
}

function arcOf(
  { type, figures, isSeenFromBelow, line }: Draft,
  [centre]: readonly DxfVertex[],
  wrong: Wrong,
  tolerance: number,
): Pick<DxfEntity, 'vertices' | 'isClosed'> {
  const radius = figures.get(40) ?? NaN;
  if (!centre || !(radius > 0)) throw wrong(`the ${type} here lacks its centre or its radius`, line);
  const middle = isSeenFromBelow ? { ...centre, x: -centre.x } : centre;
  if (type === 'CIRCLE')
    return { vertices: flattenArc(middle, radius, 0, 2 * Math.PI, tolerance).slice(0, -1), isClosed: true };
  const [from, to] = [(figures.get(50) ?? 0) * (Math.PI / 180), (figures.get(51) ?? 360) * (Math.PI / 180)];
  const sweep = (((to - from) % (2 * Math.PI)) + 2 * Math.PI) % (2 * Math.PI) || 2 * Math.PI;
  const vertices = isSeenFromBelow
    ? flattenArc(middle, radius, Math.PI - from, -sweep, tolerance)
    : flattenArc(middle, radius, from, sweep, tolerance);
  return { vertices, isClosed: false };
}

/** By its control points; one that has only places it passes through goes straight between them. */
function splineOf(
  { figures, knots, weights, fit, line }: Draft,
  control: readonly DxfVertex[],
  wrong: Wrong,
  tolerance: number,
): DxfVertex[] {
  if (control.length === 0) return fit.x.map((x, k) => ({ x, y: fit.y[k] ?? NaN, z: fit.z[k] ?? 0 }));
  const spline = { degree: figures.get(71) ?? 3, knots, control, ...(weights.length > 0 && { weights }) };
  const fault = splineFault(spline);
  if (fault !== undefined) throw wrong(`there is ${fault}`, line);
  return flattenSpline(spline, tolerance);
}
