import { PointFlag } from '@pampero/core/cloud';
import { PreparedSelection, type Selection } from '@pampero/core/selection';
import { rampTable } from '@pampero/core/tints';
import { describe, expect, test } from 'vitest';
import { abgr, stripColour } from './colours';
import { CLASS_COLOURS, classColour } from '@pampero/core/tints';
import type { DrawnCloud, PointStyle } from './drawing-protocol';
import { gridElevation } from './grid-elevation';
import { flightParts } from './flight-lines';
import {
  asSelectable,
  colourNode,
  decodeNode,
  exactPoint,
  markSelected,
  markShown,
  missingColumn,
  sceneNode,
  type CachedNode,
} from './point-cache';
import { spreadOf } from './value-spread';

const ORIGIN = [5_512_000, 6_150_000, 30] as const;
const drawn: DrawnCloud = {
  id: 3,
  nodes: [],
  scale: [0.001, 0.001, 0.01],
  offset: [...ORIGIN],
  pointSpacing: 0.5,
  columns: ['intensity', 'gpsTime', 'colour'],
};
const COUNT = 5;
const node = sceneNode(
  { id: 8, level: 2, count: COUNT, spacing: 1, min: [0, 0, 0], max: [4000, 2000, 400], revision: 6 } as never,
  drawn,
  ORIGIN,
);
const visible = { hiddenClasses: [] as number[], withWithheld: false };

/** Five points in a row, a metre apart, rising a metre each; classes 1 1 2 6 2, the last withheld. */
function cached(): CachedNode {
  const geometry = Int32Array.from([0, 1000, 2000, 3000, 4000, 0, 500, 1000, 1500, 2000, 0, 100, 200, 300, 400]);
  const marks = Uint8Array.from([1, 1, 2, 6, 2, 0, 0, 0, 0, PointFlag.withheld]);
  return decodeNode(1, drawn, node, ORIGIN, geometry.buffer, marks.buffer);
}
const style = (more: Partial<PointStyle> = {}): PointStyle =>
  ({
    mode: 'class',
    range: [30, 34],
    ramp: rampTable('land'),
    classColours: Uint32Array.from({ length: 256 }, (_, code) => abgr(classColour(code))),
    strips: [],
    hides: new Uint8Array(256),
    selected: abgr('#ff00ff'),
    found: abgr('#ff5500'),
    visible,
    ...more,
  }) as never;
const prepared = (selection: Selection): PreparedSelection => new PreparedSelection(selection);

describe('a node in memory', () => {
  test('lies about its centre in single precision, and gives back the file’s own coordinates', () => {
    const at = cached();
    expect(at.centre).toEqual([2, 1, 2]);
    expect([...at.points.x]).toEqual([-2, -1, 0, 1, 2]);
    expect([...at.points.z]).toEqual([-2, -1, 0, 1, 2]);
    expect(exactPoint(at, 3)).toEqual({
      easting: 5_512_003,
      northing: 6_150_001.5,
      elevation: 33,
      classCode: 6,
      cloudId: 3,
      nodeId: 8,
      index: 3,
    });
  });

  test('is looked at by a selection with what columns there are', () => {
    const at = cached();
    expect(asSelectable(at)).not.toHaveProperty('intensity');
    at.columns.set('intensity', Uint16Array.from([1, 2, 3, 4, 5]).buffer);
    at.columns.set('colour', Uint16Array.from(Array.from({ length: 15 }, (_, k) => k)).buffer);
    const points = asSelectable(at);
    expect([...points.intensity!]).toEqual([1, 2, 3, 4, 5]);
    expect([[...points.red!], [...points.blue!]]).toEqual([
      [0, 1, 2, 3, 4],
      [10, 11, 12, 13, 14],
    ]);
    expect(points.box).toEqual({ min: [5_512_000, 6_150_000, 30], max: [5_512_004, 6_150_002, 34] });
  });

  test('wants the column of its colours once', () => {
    const at = cached();
    expect(missingColumn(at, 'class')).toBeUndefined();
    expect(missingColumn(at, 'intensity')).toBe('intensity');
    at.columns.set('intensity', new Uint16Array(COUNT).buffer);
    expect(missingColumn(at, 'intensity')).toBeUndefined();
  });
});

describe('its colours', () => {
  test('are those of the classes; what is hidden or withheld has none', () => {
    const at = cached();
    colourNode(at, style(), 1, undefined);
    expect([...at.points.colour]).toEqual([1, 1, 2, 6].map((code) => abgr(CLASS_COLOURS[code]!)).concat(0));
    const hides = new Uint8Array(256);
    hides[2] = 1;
    colourNode(at, style({ hides }), 2, undefined);
    expect(at.points.colour[2]).toBe(0);
  });

  test('are made once for an edition', () => {
    const at = cached();
    colourNode(at, style(), 4, undefined);
    at.points.colour[0] = 7;
    colourNode(at, style(), 4, undefined);
    expect([at.points.colour[0], at.colourings]).toEqual([7, 1]);
    colourNode(at, style(), 5, undefined);
    expect([at.points.colour[0], at.colourings]).toEqual([abgr(CLASS_COLOURS[1]!), 2]);
  });

  test('by elevation run over the range, and stay at its ends beyond it', () => {
    const at = cached();
    const ramp = rampTable('land');
    colourNode(at, style({ mode: 'elevation', range: [31, 33] }), 1, undefined);
    expect([at.points.colour[0], at.points.colour[1]]).toEqual([ramp[0], ramp[0]]);
    expect(at.points.colour[3]).toBe(ramp.at(-1));
  });

  test('withheld points that are shown are pale, selected ones never', () => {
    const at = cached();
    const all = style({ visible: { ...visible, withWithheld: true } });
    colourNode(at, all, 1, undefined);
    const pale = at.points.colour[4]!;
    expect([pale === 0, pale === abgr(CLASS_COLOURS[2]!)]).toEqual([false, false]);
    at.selected = Uint8Array.of(0, 0, 0, 0, 1);
    colourNode(at, all, 2, undefined);
    expect(at.points.colour[4]).toBe(abgr('#ff00ff'));
  });

  test('what is found shows over the class, what is selected over both', () => {
    const at = cached();
    at.found = Uint8Array.of(1, 1, 0, 0, 0);
    at.selected = Uint8Array.of(1, 0, 0, 0, 0);
    colourNode(at, style(), 1, undefined);
    expect([...at.points.colour.subarray(0, 3)]).toEqual([abgr('#ff00ff'), abgr('#ff5500'), abgr(CLASS_COLOURS[2]!)]);
  });
});

describe('what is marked', () => {
  const classes = (...codes: number[]): Selection => [
    { how: 'add', shape: { kind: 'classes', classes: codes }, visible },
  ];

  test('selected points, and nothing where there are none', () => {
    const at = cached();
    markSelected(at, prepared(classes(6)));
    expect([...at.selected!]).toEqual([0, 0, 0, 1, 0]);
    markSelected(at, prepared(classes(9)));
    expect(at.selected).toBeUndefined();
  });

  test('a node that a selection leaves alone keeps its colours', () => {
    const at = cached();
    colourNode(at, style(), 3, undefined);
    markSelected(at, prepared(classes(9)));
    expect(at.colouredAt).toBe(3);
    markSelected(at, prepared(classes(1)));
    expect(at.colouredAt).toBe(-1);
  });

  test('points out of focus are not drawn', () => {
    const at = cached();
    markShown(at, prepared(classes(2)));
    colourNode(at, style(), 1, undefined);
    expect([...at.points.colour].map((colour) => colour !== 0)).toEqual([false, false, true, false, false]);
    markShown(at, undefined);
    colourNode(at, style(), 2, undefined);
    expect(at.points.colour[0]).not.toBe(0);
  });
});

describe('how values are spread', () => {
  test('over the middle, so that a stray one does not squeeze the rest into one bar', () => {
    const values = Float64Array.from({ length: 10_000 }, (_, k) => 30 + (k % 1000) / 100);
    values[17] = 1e6;
    const spread = spreadOf('elevation', [values])!;
    expect(spread.high).toBeLessThan(41);
    expect(spread.counts.reduce((a, b) => a + b)).toBeGreaterThan(9_900);
    expect(spread.percentiles[1]).toBeCloseTo(30.1, 1);
    expect(spread.percentiles[99]).toBeCloseTo(39.9, 1);
  });

  test('nothing of nothing; one value stands in the middle of a bar’s breadth', () => {
    expect(spreadOf('elevation', [])).toBeUndefined();
    expect(spreadOf('elevation', [Float64Array.of(NaN)])).toBeUndefined();
    expect(spreadOf('elevation', [Float64Array.of(7, 7, 7)])).toMatchObject({ low: 6.5, high: 7.5 });
  });
});

describe('small things that are drawn', () => {
  test('an elevation between four corners, and none beside them or where one is missing', () => {
    const grid = {
      columns: 3,
      rows: 2,
      x: 10,
      y: 20,
      step: 2,
      elevation: Float32Array.of(1, 3, 5, 2, 4, NaN),
    } as never;
    expect(gridElevation(grid, 10, 20)).toBe(1);
    expect(gridElevation(grid, 11, 21)).toBeCloseTo(2.5, 6);
    expect(gridElevation(grid, 9.9, 20)).toBeNaN();
    expect(gridElevation(grid, 13, 21)).toBeNaN();
  });

  test('lines as segments about the origin; a vertex without elevation lies on it', () => {
    const file = {
      features: [
        {
          geometry: {
            coordinates: [
              [11, 22, 33],
              [12, 22],
              [12, 24, 31],
            ],
          },
        },
      ],
    };
    const [part] = flightParts(file, [10, 20, 30], { by: 'plain' });
    expect([...part!.positions]).toEqual([1, 2, 3, 2, 2, 0, 2, 2, 0, 2, 4, 1]);
  });

  test('every class has a colour, neighbours among one’s own are told apart, strips too', () => {
    for (let code = 0; code < 256; code++) expect(classColour(code), String(code)).toMatch(/^#[0-9a-f]{6}$/i);
    expect(new Set(Array.from({ length: 40 }, (_, k) => classColour(64 + k))).size).toBe(40);
    expect(new Set(Array.from({ length: 60 }, (_, k) => stripColour(k))).size).toBe(60);
    expect(abgr('#112233')).toBe(0xff332211);
  });
});
