import { columnFrom } from '../columns/index.js';
import { PointFlag, SCAN_ANGLE_STEP, type ColumnName, type Quantisation } from '../cloud/index.js';
import { PamperoError } from '../task/index.js';
import { pixelsAround, Projection, type Box } from './drawn-view.js';
import { addToFront, isSeen, mergeFront, newFront, type Front } from './front.js';
import { Outline, type BoxRelation } from './outline.js';
import { squaredDistance, Stroke } from './stroke.js';
import type { RangeAttribute, ReturnKind, Selection, SelectionStep, Shape, Visible } from './selection.js';

/** Points of one node, as a selection looks at them. */
export interface SelectablePoints {
  readonly nodeId: number;
  readonly cloudId: number;
  readonly count: number;
  readonly quantisation: Quantisation;
  /** The node's bounds in job coordinates. */
  readonly box: Box;
  /** Missing only where {@link PreparedSelection.relationOf} said "inside". */
  readonly x?: Int32Array;
  readonly y?: Int32Array;
  readonly z?: Int32Array;
  readonly classification: Uint8Array;
  readonly flags: Uint8Array;
  readonly intensity?: Uint16Array;
  readonly returns?: Uint8Array;
  readonly scanAngle?: Int16Array;
  readonly pointSourceId?: Uint16Array;
  readonly gpsTime?: Float64Array;
  readonly red?: Uint16Array;
  readonly green?: Uint16Array;
  readonly blue?: Uint16Array;
  /** How sure the source is of each point. */
  readonly confidence?: Float32Array;
  /** Standard deviation of each point's elevation. */
  readonly accuracy?: Float32Array;
}

/** Columns an attribute is computed from, beside positions. */
const COLUMNS_OF: Readonly<Record<RangeAttribute, readonly ColumnName[]>> = {
  elevation: [],
  intensity: ['intensity'],
  'scan-angle': ['scanAngle'],
  'gps-time': ['gpsTime'],
  strip: ['pointSourceId'],
  greenness: ['red', 'green', 'blue'],
  confidence: ['extraBytes'],
  accuracy: ['extraBytes'],
  'number-of-returns': ['returns'],
};

/** How thick a surface may be to be seen as one, where nothing else is said: job units. */
const THICKNESS = 0.25;

type Test = (points: SelectablePoints, out: Uint8Array) => void;

interface PreparedStep {
  readonly step: SelectionStep;
  readonly test: Test;
  /** The test is of places: where the node lies wholly within or without, it need not be made. */
  readonly isOfPlaces: boolean;
  readonly relationOf: (box: Box, nodeId: number) => BoxRelation;
  readonly visible: PreparedVisible;
  readonly seen: { readonly projection: Projection; readonly front: Front; readonly thickness: number } | undefined;
}

interface PreparedVisible {
  readonly source: Visible;
  readonly shows: Uint8Array;
  readonly focus: PreparedSelection | undefined;
}

/** A selection made ready to be asked about many points. */
export class PreparedSelection {
  private readonly steps: readonly PreparedStep[];
  /** Columns that must be given, beside positions, classes and flags. */
  readonly columns: ReadonlySet<ColumnName>;

  /**
   * @throws PamperoError `outline-wrong`, `stroke-wrong`, `range-wrong` or `selection-wrong`; `where` says which step it is
   */
  constructor(selection: Selection) {
    const columns = new Set<ColumnName>();
    const visibles: PreparedVisible[] = [];
    this.steps = selection.map((step, index) => {
      try {
        const visible = visibles.find(({ source }) => source === step.visible) ?? prepareVisible(step.visible);
        visibles.push(visible);
        for (const name of visible.focus?.columns ?? []) columns.add(name);
        for (const name of columnsFor(step.shape)) columns.add(name);
        return prepareStep(step, visible);
      } catch (error) {
        if (error instanceof PamperoError && !error.where && selection.length > 1)
          throw new PamperoError(error.code, {
            what: error.what,
            where: `step ${index + 1} of the selection`,
            ...(error.fix && { fix: error.fix }),
          });
        throw error;
      }
    });
    this.columns = columns;
  }

  /** Whether points behind others must be found out first: then all nodes that the view shows are given to {@link addToFronts}. */
  get needsFronts(): boolean {
    return this.steps.some(({ seen, visible }) => seen !== undefined || visible.focus?.needsFronts === true);
  }

  /**
   * How the selection lies to a node's box. "inside" says that every shape holds the whole of it: positions are then not
   * needed. "outside" says that nothing of it can be selected.
   */
  relationOf(box: Box, nodeId: number, cloudId: number): BoxRelation {
    let isTouched = false;
    for (const step of this.steps) {
      const adds = step.step.how === 'add' || step.step.how === 'invert';
      // Where nothing is selected yet, nothing can be taken away.
      if (!adds && !isTouched) continue;
      const relation = this.stepRelation(step, box, nodeId, cloudId);
      if (relation === 'crossing') return 'crossing';
      if (adds && relation === 'inside') isTouched = true;
    }
    return isTouched ? 'inside' : 'outside';
  }

  private stepRelation(step: PreparedStep, box: Box, nodeId: number, cloudId: number): BoxRelation {
    const own = step.relationOf(box, nodeId);
    const shown = relationToVisible(step.visible, box, nodeId, cloudId);
    // What is kept is decided by the shape alone, what is shown by the rest.
    if (step.step.how === 'keep' && own === 'outside') return shown === 'crossing' ? 'crossing' : 'inside';
    return step.seen && own === 'inside' ? weaker('crossing', shown) : weaker(own, shown);
  }

  /** Lets the points of a node hide what is behind them. */
  addToFronts(points: SelectablePoints): void {
    const place = new Float64Array(3);
    for (const { seen, visible } of this.steps) {
      visible.focus?.addToFronts(points);
      if (!seen) continue;
      const shown = visibleMask(visible, points);
      eachPlace(points, (i, x, y, z) => {
        if (shown[i] === 1 && seen.projection.project(x, y, z, place))
          addToFront(seen.front, place[0]!, place[1]!, place[2]!);
      });
    }
  }

  /** The fronts gathered so far, to be merged with those of another thread. */
  fronts(): Front[] {
    return this.steps.flatMap(({ seen, visible }) => [
      ...(visible.focus?.fronts() ?? []),
      ...(seen ? [seen.front] : []),
    ]);
  }

  mergeFronts(others: readonly Front[]): void {
    this.fronts().forEach((front, i) => mergeFront(front, others[i]!));
  }

  /** Whether the node can hide anything: its box is where a front is. */
  reachesFronts(box: Box, nodeId: number, cloudId: number): boolean {
    return this.steps.some(
      ({ seen, visible, relationOf }) =>
        (seen &&
          relationOf(box, nodeId) !== 'outside' &&
          relationToVisible(visible, box, nodeId, cloudId) !== 'outside') ||
        visible.focus?.reachesFronts(box, nodeId, cloudId),
    );
  }

  /** Of each point 1 where it is selected. */
  mask(points: SelectablePoints): Uint8Array {
    const selected = new Uint8Array(points.count);
    const held = new Uint8Array(points.count);
    const place = new Float64Array(3);
    let shownOf: PreparedVisible | undefined;
    let shown: Uint8Array = held;
    for (const { step, test, isOfPlaces, relationOf, visible, seen } of this.steps) {
      if (visible !== shownOf) {
        shown = visibleMask(visible, points);
        shownOf = visible;
      }
      if (step.how === 'invert') {
        for (let i = 0; i < points.count; i++) if (shown[i] === 1) selected[i]! ^= 1;
        continue;
      }
      const relation = relationOf(points.box, points.nodeId);
      held.fill(isOfPlaces && relation === 'inside' ? 1 : 0);
      if (!isOfPlaces || (relation === 'crossing' && points.x)) test(points, held);
      if (seen && relation !== 'outside' && points.x)
        eachPlace(points, (i, x, y, z) => {
          if (held[i] === 1 && shown[i] === 1)
            held[i] =
              seen.projection.project(x, y, z, place) &&
              isSeen(seen.front, seen.projection, place[0]!, place[1]!, place[2]!, seen.thickness)
                ? 1
                : 0;
        });
      if (step.how === 'add') for (let i = 0; i < points.count; i++) selected[i]! |= held[i]! & shown[i]!;
      else if (step.how === 'take') for (let i = 0; i < points.count; i++) selected[i]! &= 1 ^ (held[i]! & shown[i]!);
      else for (let i = 0; i < points.count; i++) if (shown[i] === 1) selected[i]! &= held[i]!;
    }
    return selected;
  }
}

function eachPlace(
  { count, x, y, z, quantisation: { scale, offset } }: SelectablePoints,
  visit: (index: number, x: number, y: number, z: number) => void,
): void {
  for (let i = 0; i < count; i++)
    visit(i, x![i]! * scale[0] + offset[0], y![i]! * scale[1] + offset[1], z![i]! * scale[2] + offset[2]);
}

function weaker(a: BoxRelation, b: BoxRelation): BoxRelation {
  if (a === 'outside' || b === 'outside') return 'outside';
  return a === 'crossing' || b === 'crossing' ? 'crossing' : 'inside';
}

function prepareVisible(source: Visible): PreparedVisible {
  const shows = new Uint8Array(256).fill(1);
  for (const code of source.hiddenClasses) shows[code] = 0;
  return { source, shows, focus: source.focus && new PreparedSelection(source.focus) };
}

function relationToVisible({ source, focus }: PreparedVisible, box: Box, nodeId: number, cloudId: number): BoxRelation {
  if (source.clouds && !source.clouds.includes(cloudId)) return 'outside';
  const own = source.box ? relationOfBoxes(box, source.box) : 'inside';
  // A focus is settled point by point, with its own shapes.
  return focus ? weaker(own, focus.relationOf(box, nodeId, cloudId)) : own;
}

function relationOfBoxes(box: Box, outer: Box): BoxRelation {
  let isInside = true;
  for (const axis of [0, 1, 2] as const) {
    if (box.max[axis] < outer.min[axis] || box.min[axis] > outer.max[axis]) return 'outside';
    if (box.min[axis] < outer.min[axis] || box.max[axis] > outer.max[axis]) isInside = false;
  }
  return isInside ? 'inside' : 'crossing';
}

/** Of each point 1 where it could be seen: its class and cloud on, not withheld, within box and focus. */
function visibleMask({ source, shows, focus }: PreparedVisible, points: SelectablePoints): Uint8Array {
  const { count, classification, flags } = points;
  const relation = source.box ? relationOfBoxes(points.box, source.box) : 'inside';
  if (relation === 'outside' || (source.clouds && !source.clouds.includes(points.cloudId)))
    return new Uint8Array(count);
  const out = focus ? focus.mask(points) : new Uint8Array(count).fill(1);
  const never = source.withWithheld ? 0 : PointFlag.withheld;
  for (let i = 0; i < count; i++) if (shows[classification[i]!] === 0 || (flags[i]! & never) !== 0) out[i] = 0;
  const { box } = source;
  if (box && points.x && relation === 'crossing')
    eachPlace(points, (i, x, y, z) => {
      if (x < box.min[0] || x > box.max[0] || y < box.min[1] || y > box.max[1] || z < box.min[2] || z > box.max[2])
        out[i] = 0;
    });
  return out;
}

function columnsFor(shape: Shape): readonly ColumnName[] {
  return shape.kind === 'range' ? COLUMNS_OF[shape.attribute] : shape.kind === 'returns' ? ['returns'] : [];
}

function prepareStep(step: SelectionStep, visible: PreparedVisible): PreparedStep {
  const { shape } = step;
  if (step.how === 'invert' || shape.kind === 'all')
    return {
      step,
      visible,
      seen: undefined,
      isOfPlaces: true,
      test: (points, out) => void out.fill(1, 0, points.count),
      relationOf: () => 'inside',
    };
  switch (shape.kind) {
    case 'outline':
    case 'stroke': {
      const form = shape.kind === 'outline' ? new Outline(shape.corners) : new Stroke(shape.path, shape.radius);
      const pixels =
        shape.kind === 'outline' ? pixelsAround(shape.corners) : pixelsAround(shape.path, Math.max(0, shape.radius));
      const projection = new Projection(shape.view);
      return {
        step,
        visible,
        seen: step.seenOnly
          ? { projection, front: newFront(pixels, shape.view), thickness: step.thickness ?? THICKNESS }
          : undefined,
        isOfPlaces: true,
        test: (points, out) => projection.mark(points, pixels, form, out),
        relationOf: (box) => {
          const at = projection.pixelBox(box);
          if (at === undefined) return 'outside';
          if (at === 'anywhere') return 'crossing';
          const relation = form.relationOf(at.left, at.top, at.right, at.bottom);
          return relation === 'inside' && !at.isWhole ? 'crossing' : relation;
        },
      };
    }
    case 'boundary':
      return { step, visible, seen: undefined, ...prepareBoundary(shape) };
    case 'range':
      return { step, visible, seen: undefined, ...prepareRange(shape) };
    case 'returns': {
      const wanted = returnTable(shape.which);
      return {
        step,
        visible,
        seen: undefined,
        isOfPlaces: false,
        test: ({ count, returns }, out) => {
          for (let i = 0; i < count; i++) out[i] = wanted[returns![i]!]!;
        },
        relationOf: () => 'inside',
      };
    }
    case 'classes': {
      const wanted = new Uint8Array(256);
      for (const code of shape.classes) wanted[code] = 1;
      return {
        step,
        visible,
        seen: undefined,
        isOfPlaces: false,
        test: ({ count, classification }, out) => {
          for (let i = 0; i < count; i++) out[i] = wanted[classification[i]!]!;
        },
        relationOf: () => 'inside',
      };
    }
    case 'points': {
      const byNode = new Map(shape.nodes.map(({ nodeId, bits }) => [nodeId, bits]));
      return {
        step,
        visible,
        seen: undefined,
        isOfPlaces: false,
        test: ({ count, nodeId }, out) => {
          const bits = byNode.get(nodeId);
          if (bits) for (let i = 0; i < count; i++) out[i] = (bits[i >> 3]! >> (i & 7)) & 1;
        },
        relationOf: (_, nodeId) => (byNode.has(nodeId) ? 'inside' : 'outside'),
      };
    }
  }
}

function prepareBoundary({
  corners,
  buffer,
}: Extract<Shape, { kind: 'boundary' }>): Pick<PreparedStep, 'isOfPlaces' | 'test' | 'relationOf'> {
  const outline = new Outline(corners);
  const limit = buffer * buffer;
  const isNearSide = (x: number, y: number): boolean =>
    corners.some((corner, i) => squaredDistance(x, y, corner, corners[(i + 1) % corners.length]!) <= limit);
  const contains = (x: number, y: number): boolean =>
    buffer === 0
      ? outline.contains(x, y)
      : buffer > 0
        ? outline.contains(x, y) || isNearSide(x, y)
        : outline.contains(x, y) && !isNearSide(x, y);
  const reach = Math.abs(buffer);
  return {
    isOfPlaces: true,
    test: (points, out) =>
      eachPlace(points, (i, x, y) => {
        if (contains(x, y)) out[i] = 1;
      }),
    relationOf: ({ min, max }) => outline.relationOf(min[0] - reach, min[1] - reach, max[0] + reach, max[1] + reach),
  };
}

function prepareRange({
  attribute,
  from = -Infinity,
  to = Infinity,
}: Extract<Shape, { kind: 'range' }>): Pick<PreparedStep, 'isOfPlaces' | 'test' | 'relationOf'> {
  if (Number.isNaN(from) || Number.isNaN(to) || from > to)
    throw new PamperoError('range-wrong', {
      what: `The range of ${attribute.replaceAll('-', ' ')} goes from ${from} to ${to}.`,
      fix: 'Give the lower end first.',
    });
  const between =
    (value: (points: SelectablePoints, index: number) => number): Test =>
    (points, out) => {
      for (let i = 0; i < points.count; i++) {
        const v = value(points, i);
        if (v >= from && v <= to) out[i] = 1;
      }
    };
  if (attribute === 'elevation') {
    return {
      isOfPlaces: true,
      test: between(({ z, quantisation }, i) => z![i]! * quantisation.scale[2] + quantisation.offset[2]),
      relationOf: ({ min, max }) =>
        max[2] < from || min[2] > to ? 'outside' : min[2] >= from && max[2] <= to ? 'inside' : 'crossing',
    };
  }
  const test: Test = {
    intensity: between(({ intensity }, i) => intensity![i]!),
    'scan-angle': between(({ scanAngle }, i) => scanAngle![i]! * SCAN_ANGLE_STEP),
    'gps-time': between(({ gpsTime }, i) => gpsTime?.[i] ?? NaN),
    strip: between(({ pointSourceId }, i) => pointSourceId![i]!),
    confidence: between(({ confidence }, i) => confidence?.[i] ?? NaN),
    accuracy: between(({ accuracy }, i) => accuracy?.[i] ?? NaN),
    'number-of-returns': between(({ returns }, i) => returns![i]! >> 4),
    greenness: between(({ red, green, blue }, i) => (red ? greenness(red[i]!, green![i]!, blue![i]!) : NaN)),
  }[attribute];
  return { isOfPlaces: false, test, relationOf: () => 'inside' };
}

/**
 * Excess green index of normalised colour, −1 to 2 (Woebbecke et al. 1995, Transactions of the ASAE 38(1), 259-269): above
 * about 0.1 it is mostly leaves and grass. NaN for black.
 */
export function greenness(red: number, green: number, blue: number): number {
  const sum = red + green + blue;
  return sum === 0 ? NaN : (2 * green - red - blue) / sum;
}

/** Which of the kinds each byte of return number and number of returns is. */
export function returnKind(returns: number): ReturnKind {
  const number = returns & 15;
  const of = returns >> 4;
  if (of <= 1) return 'single';
  return number <= 1 ? 'first' : number >= of ? 'last' : 'intermediate';
}

function returnTable(which: readonly ReturnKind[]): Uint8Array {
  if (which.length === 0)
    throw new PamperoError('selection-wrong', {
      what: 'No kind of return is asked for.',
      fix: 'Choose one at least.',
    });
  return columnFrom(Uint8Array, { length: 256 }, (_, byte) => (which.includes(returnKind(byte)) ? 1 : 0));
}
