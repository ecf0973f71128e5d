import { describe, expect, test } from 'vitest';
import { newPointBatch } from '../cloud/index.js';
import { seededRandom } from '../task/index.js';
import { greenness, PreparedSelection, returnKind } from './prepared-selection.js';
import type { SelectablePoints } from './prepared-selection.js';
import type { DrawnView } from './drawn-view.js';
import type { Selection, SelectionStep, Visible } from './selection.js';

const SCALE = 0.01;
const all: Visible = { hiddenClasses: [], withWithheld: false };

/** Points in metres as a node of the store. */
function node(places: readonly (readonly [number, number, number])[], nodeId = 1): SelectablePoints {
  const batch = newPointBatch(places.length, {
    gpsTime: true,
    rgb: true,
    nearInfrared: false,
    wavePacket: false,
    extraBytesLength: 0,
  });
  places.forEach(([x, y, z], i) => {
    batch.x[i] = Math.round(x / SCALE);
    batch.y[i] = Math.round(y / SCALE);
    batch.z[i] = Math.round(z / SCALE);
    batch.classification[i] = 1;
    batch.returns[i] = 0x11;
  });
  const range = (axis: 0 | 1 | 2, of: (...v: number[]) => number) =>
    of(...places.map((p) => Math.round(p[axis] / SCALE) * SCALE));
  return {
    ...batch,
    nodeId,
    cloudId: 1,
    quantisation: { scale: [SCALE, SCALE, SCALE], offset: [0, 0, 0] },
    box: {
      min: [range(0, Math.min), range(1, Math.min), range(2, Math.min)],
      max: [range(0, Math.max), range(1, Math.max), range(2, Math.max)],
    },
  };
}

/** Straight down on 0..100 x 0..100, a pixel a metre, heights −50 to 50. */
const plan: DrawnView = {
  matrix: [2 / 100, 0, 0, 0, 0, 2 / 100, 0, 0, 0, 0, -1 / 50, 0, -1, -1, 0, 1],
  origin: [0, 0, 0],
  width: 100,
  height: 100,
};
const outline = (corners: [number, number][], more: Partial<SelectionStep> = {}): SelectionStep => ({
  how: 'add',
  shape: { kind: 'outline', view: plan, corners },
  visible: all,
  ...more,
});
const selected = (selection: Selection, points: SelectablePoints): number[] => {
  const prepared = new PreparedSelection(selection);
  if (prepared.needsFronts) prepared.addToFronts(points);
  return [...prepared.mask(points)];
};

describe('an outline in a view', () => {
  const points = node([
    [10, 90, 0],
    [50, 50, 20],
    [90, 10, 0],
  ]);

  test('takes what lies in it on the screen, y down', () => {
    expect(selected([outline([[0, 0], [20, 0], [20, 20], [0, 20]])], points)).toEqual([1, 0, 0]); // prettier-ignore
    expect(selected([outline([[40, 40], [60, 40], [60, 60], [40, 60]])], points)).toEqual([0, 1, 0]); // prettier-ignore
  });

  test('what the view’s depth leaves out is not touched', () => {
    const high = node([
      [50, 50, 20],
      [50.5, 50, 80],
    ]);
    expect(selected([outline([[40, 40], [60, 40], [60, 60], [40, 60]])], high)).toEqual([1, 0]); // prettier-ignore
  });

  test('steps add, take away, keep and invert', () => {
    const whole = outline([[0, 0], [100, 0], [100, 100], [0, 100]]); // prettier-ignore
    const corner: [number, number][] = [[0, 0], [20, 0], [20, 20], [0, 20]]; // prettier-ignore
    expect(selected([whole, outline(corner, { how: 'take' })], points)).toEqual([0, 1, 1]);
    expect(selected([whole, outline(corner, { how: 'keep' })], points)).toEqual([1, 0, 0]);
    expect(selected([outline(corner), { ...whole, how: 'invert' }], points)).toEqual([0, 1, 1]);
    expect(selected([outline(corner, { how: 'take' })], points)).toEqual([0, 0, 0]);
  });

  test('hidden classes, withheld points, other clouds and what lies outside the focus box are not touched', () => {
    const three = node([
      [50, 50, 0],
      [51, 50, 0],
      [52, 50, 0],
      [53, 50, 30],
    ]);
    three.classification[0] = 5;
    three.flags[1] = 4;
    const whole: [number, number][] = [[0, 0], [100, 0], [100, 100], [0, 100]]; // prettier-ignore
    const with_ = (visible: Partial<Visible>) => [outline(whole, { visible: { ...all, ...visible } })];
    expect(selected(with_({ hiddenClasses: [5] }), three)).toEqual([0, 0, 1, 1]);
    expect(selected(with_({ hiddenClasses: [5], withWithheld: true }), three)).toEqual([0, 1, 1, 1]);
    expect(selected(with_({ clouds: [2] }), three)).toEqual([0, 0, 0, 0]);
    expect(selected(with_({ box: { min: [0, 0, -1], max: [100, 100, 1] } }), three)).toEqual([1, 0, 1, 0]);
    expect(selected(with_({ focus: [outline([[50.5, 0], [100, 0], [100, 100], [50.5, 100]])] }), three)).toEqual([0, 0, 1, 1]); // prettier-ignore
  });

  test('only what nothing stands in front of, where that is asked: a roof hides the floor, the ground beside it stays', () => {
    const places: [number, number, number][] = [];
    for (let x = 30; x < 60; x += 0.5)
      for (let y = 40; y < 60; y += 0.5) {
        places.push([x, y, 0]);
        if (x < 45) places.push([x, y, 6]);
      }
    const points = node(places);
    const mask = selected([outline([[20, 20], [80, 20], [80, 80], [20, 80]], { seenOnly: true })], points); // prettier-ignore
    places.forEach(([x, , z], i) => {
      // A pixel is a metre here, and a point covers three: what lies near the eave may go either way.
      if (z === 6) expect(mask[i]).toBe(1);
      else if (x > 47) expect(mask[i]).toBe(1);
      else if (x < 43) expect(mask[i]).toBe(0);
    });
  });
});

describe('other shapes', () => {
  test('a brush stroke takes what is within its radius of the path', () => {
    const points = node([
      [10, 50, 0],
      [50, 53, 0],
      [50, 56, 0],
      [94, 50, 0],
      [98, 50, 0],
    ]);
    const stroke: SelectionStep = {
      how: 'add',
      shape: { kind: 'stroke', view: plan, path: [[10, 50], [50, 50], [90, 50]], radius: 5 }, // prettier-ignore
      visible: all,
    };
    expect(selected([stroke], points)).toEqual([1, 1, 0, 1, 0]);
  });

  test('a boundary with a buffer, wider and narrower', () => {
    const points = node([
      [25, 25, 0],
      [31, 25, 0],
      [29.5, 25, 0],
      [35, 25, 0],
    ]);
    const within = (buffer: number): Selection => [
      { how: 'add', shape: { kind: 'boundary', corners: [[20, 20], [30, 20], [30, 30], [20, 30]], buffer }, visible: all }, // prettier-ignore
    ];
    expect(selected(within(0), points)).toEqual([1, 0, 1, 0]);
    expect(selected(within(2), points)).toEqual([1, 1, 1, 0]);
    expect(selected(within(-1), points)).toEqual([1, 0, 0, 0]);
  });

  test('ranges of attributes, both ends included', () => {
    const points = node([
      [1, 1, 1.5],
      [2, 2, 2.5],
      [3, 3, 3.5],
    ]);
    points.intensity!.set([10, 20, 30]);
    points.scanAngle!.set([-1000, 0, 1000]);
    points.red!.set([100, 10, 0]);
    points.green!.set([100, 80, 0]);
    points.blue!.set([100, 10, 0]);
    const range = (attribute: string, from?: number, to?: number): Selection => [
      { how: 'add', shape: { kind: 'range', attribute, from, to } as never, visible: all },
    ];
    expect(selected(range('elevation', 1.5, 2.5), points)).toEqual([1, 1, 0]);
    expect(selected(range('intensity', 20), points)).toEqual([0, 1, 1]);
    expect(selected(range('scan-angle', -6, -5), points)).toEqual([1, 0, 0]);
    expect(selected(range('greenness', 0.5, 2), points)).toEqual([0, 1, 0]);
    expect(() => selected(range('intensity', 30, 20), points)).toThrow(/from 30 to 20/);
  });

  test('kinds of return, as LAS numbers them', () => {
    expect([0x11, 0x21, 0x22, 0x31, 0x32, 0x33, 0x00].map(returnKind)).toEqual([
      'single',
      'first',
      'last',
      'first',
      'intermediate',
      'last',
      'single',
    ]);
  });

  test('greenness is the excess green of the normalised colour: 2g − r − b', () => {
    expect(greenness(0, 255, 0)).toBe(2);
    expect(greenness(255, 0, 0)).toBe(-1);
    expect(greenness(90, 90, 90)).toBe(0);
    expect(greenness(60, 100, 40)).toBeCloseTo(2 * 0.5 - 0.3 - 0.2, 12);
    expect(greenness(0, 0, 0)).toBeNaN();
  });

  test('an outline that crosses itself says in which step it stands', () => {
    const bow = outline([[0, 0], [50, 50], [50, 0], [0, 50]]); // prettier-ignore
    expect(() => new PreparedSelection([bow])).toThrow(/cross each other/);
    expect(() => new PreparedSelection([outline([[0, 0], [9, 0], [9, 9]]), bow])).toThrow(/step 2/); // prettier-ignore
  });
});

/** A camera 60 above and 80 south of the middle of the land, looking at it. */
function perspective(): DrawnView {
  const [eye, f, near, far] = [[50, -30, 60] as const, 1.6, 5, 500];
  const back = [0, -0.8, 0.6];
  const up = [0, 0.6, 0.8];
  const a = (far + near) / (far - near);
  const b = (2 * far * near) / (far - near);
  const dot = (v: readonly number[]) => v[0]! * eye[0] + v[1]! * eye[1] + v[2]! * eye[2];
  const right = [1, 0, 0];
  const columns = [0, 1, 2].flatMap((k) => [right[k]! * f, up[k]! * f, -back[k]! * a, -back[k]!]);
  return {
    matrix: [...columns, -dot(right) * f, -dot(up) * f, dot(back) * a - b, dot(back)],
    origin: [0, 0, 0],
    width: 200,
    height: 200,
  };
}

describe('a node wholly within or without needs no look at its points', () => {
  const random = seededRandom(5);
  const view = [plan, perspective()];

  test.each(Array.from({ length: 150 }, (_, i) => i))('random selection %i over random nodes', () => {
    const steps: SelectionStep[] = [];
    for (let k = 0; k < 1 + Math.floor(random() * 4); k++) {
      const v = view[Math.floor(random() * 2)]!;
      const [cx, cy, r] = [random() * v.width, random() * v.height, 5 + random() * 90];
      const corners = Array.from({ length: 3 + Math.floor(random() * 8) }, (_, c) => {
        const angle = ((c + random() * 0.8) * 2 * Math.PI) / 11;
        return [cx + Math.cos(angle) * r * (0.4 + random()), cy + Math.sin(angle) * r * (0.4 + random())] as const;
      });
      const how = (['add', 'add', 'take', 'keep', 'invert'] as const)[Math.floor(random() * 5)]!;
      const box = random() < 0.3 ? { min: [20, 20, -50], max: [20 + random() * 80, 90, 50] } : undefined;
      const visible = { ...all, hiddenClasses: random() < 0.3 ? [2] : [], ...(box && { box }) } as Visible;
      const shape =
        random() < 0.2
          ? ({ kind: 'range', attribute: 'elevation', from: -5, to: random() * 10 } as const)
          : random() < 0.2
            ? ({ kind: 'stroke', view: v, path: corners, radius: 8 } as const)
            : ({ kind: 'outline', view: v, corners } as const);
      steps.push({ how, shape, visible });
    }
    let prepared: PreparedSelection;
    try {
      prepared = new PreparedSelection(steps);
    } catch {
      return; // sides that cross: refused
    }
    for (let k = 0; k < 40; k++) {
      const [x, y, side] = [random() * 100, random() * 100, random() * 12];
      const points = node(
        Array.from({ length: 30 }, () => [x + random() * side, y + random() * side, random() * 10] as const),
      );
      for (let c = 0; c < 30; c++) points.classification[c] = random() < 0.5 ? 2 : 1;
      const relation = prepared.relationOf(points.box, 1, 1);
      const exact = prepared.mask(points);
      if (relation === 'outside') expect(exact.includes(1)).toBe(false);
      else if (relation === 'inside') {
        const { x: _, y: __, z: ___, ...marks } = points;
        expect([...prepared.mask(marks)]).toEqual([...exact]);
      }
    }
  });

  test('the perspective used here sees the middle of the land in the middle of the picture', () => {
    const place = node([[50, 50, 0], [99, 50, 0]]); // prettier-ignore
    const middle: SelectionStep = {
      how: 'add',
      shape: { kind: 'outline', view: perspective(), corners: [[98, 98], [102, 98], [102, 102], [98, 102]] }, // prettier-ignore
      visible: all,
    };
    expect(selected([middle], place)).toEqual([1, 0]);
  });
});
