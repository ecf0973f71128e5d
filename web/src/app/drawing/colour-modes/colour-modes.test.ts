import { describe, expect, test } from 'vitest';
import { abgr, RETURN_COLOURS, stripColour } from '../colours';
import type { DrawnGrid } from '../grid-rasteriser';
import type { ColouredPoints, KindMode, RampedMode } from './colour-mode';
import { COLOUR_MODES, colourMode, isRamped, PLAIN, type ColourMode } from './index';

const points = (columns: Record<string, ArrayBuffer> = {}): ColouredPoints => ({
  node: { count: 3 },
  cloud: { scale: [0.01, 0.01, 0.01], offset: [0, 0, 100] },
  integers: Int32Array.from([0, 100, 200, 0, 100, 200, 0, 250, -50]),
  points: { x: Float32Array.of(-1, 0, 1), y: Float32Array.of(-1, 0, 1), z: Float32Array.of(0, 2.5, -0.5) },
  centre: [1, 1, 0],
  classes: Uint8Array.of(2, 6, 2),
  columns: new Map(Object.entries(columns)) as never,
});
const valuesOf = (id: ColourMode, from: ColouredPoints, grid?: DrawnGrid): number[] =>
  Array.from((colourMode(id) as RampedMode).valuesOf(from, grid));
const painted = (id: ColourMode, from: ColouredPoints, classColours = new Uint32Array(256)): number[] => {
  const out = new Uint32Array(3);
  (colourMode(id) as KindMode).paint(from, out, { classColours, strips: [] });
  return Array.from(out);
};

describe('colour modes', () => {
  test('have names and ids of their own, and every one draws something without its attribute', () => {
    for (const pick of ['id', 'name'] as const)
      expect(new Set(COLOUR_MODES.map((mode) => mode[pick])).size).toBe(COLOUR_MODES.length);
    for (const { id } of COLOUR_MODES) {
      const mode = colourMode(id);
      if (isRamped(mode)) expect(mode.valuesOf(points(), undefined)).toHaveLength(3);
      else if (id !== 'class') expect(new Set(painted(id, points()))).toEqual(new Set([PLAIN]));
    }
  });

  test('a mode that a kept view names and that has gone is shown by class', () => {
    expect(colourMode('by-mood' as ColourMode).id).toBe('class');
  });

  test('elevation comes from the scaled integers, to the last of them', () => {
    expect(valuesOf('elevation', points())).toEqual([100, 102.5, 99.5]);
  });

  test('intensity, time and confidence as they are stored', () => {
    const from = points({
      intensity: Uint16Array.of(0, 500, 65_535).buffer,
      gpsTime: Float64Array.of(1.25, 2, 3).buffer,
      confidence: Float32Array.of(0, 0.5, 1).buffer,
    });
    expect(valuesOf('intensity', from)).toEqual([0, 500, 65_535]);
    expect(valuesOf('gps-time', from)).toEqual([1.25, 2, 3]);
    expect(valuesOf('confidence', from)).toEqual([0, 0.5, 1]);
  });

  test('the vegetation index is (NIR - R) / (NIR + R) (Rouse et al. 1974); where nothing came back there is none', () => {
    // Near infrared of three points, then their red: leaves, bare soil, shade.
    const infrared = Uint16Array.of(50_000, 30_000, 0, 10_000, 20_000, 0).buffer;
    const [leaves, soil, shade] = valuesOf('vegetation-index', points({ infrared }));
    expect(leaves).toBeCloseTo(2 / 3, 12);
    expect(soil).toBeCloseTo(0.2, 12);
    expect(shade).toBeNaN();
    const of = (nearInfrared: boolean, rgb: boolean): boolean =>
      colourMode('vegetation-index').isThere!({
        clouds: [{ columns: { nearInfrared, rgb } }] as never,
        hasSurface: false,
        strips: [],
      });
    expect([of(true, true), of(true, false), of(false, true)]).toEqual([true, false, false]);
  });

  test('scan angles count in steps of 0.006 degrees (ASPRS LAS 1.4 R15, point formats 6 to 10)', () => {
    const angles = valuesOf('scan-angle', points({ scanAngle: Int16Array.of(-5000, 0, 2500).buffer }));
    for (const [i, degrees] of [-30, 0, 15].entries()) expect(angles[i]).toBeCloseTo(degrees, 9);
  });

  test('photo colours are the upper bytes of 16 bits, as ABGR', () => {
    const colour = Uint16Array.of(0xff00, 0, 0x1200, 0, 0xff00, 0x3400, 0, 0, 0x5600).buffer;
    expect(painted('colour', points({ colour }))).toEqual([0xff0000ff, 0xff00ff00, 0xff563412]);
  });

  test('greenness is excess green over brightness: grey has none', () => {
    const colour = Uint16Array.of(100, 10, 0, 100, 80, 200, 100, 10, 0).buffer;
    const [grey, leaf, pure] = valuesOf('greenness', points({ colour }));
    expect(grey).toBeCloseTo(0, 9);
    expect(leaf).toBeGreaterThan(0.4);
    expect(pure).toBeGreaterThanOrEqual(leaf!);
  });

  test('returns by their place in the pulse, strips by number, classes by the job’s colours', () => {
    const returns = Uint8Array.of(0x11, 0x21, 0x22).buffer; // 1 of 1, 1 of 2, 2 of 2
    expect(painted('returns', points({ returns }))).toEqual(
      [RETURN_COLOURS.single, RETURN_COLOURS.first, RETURN_COLOURS.last].map(abgr),
    );
    const strips = Uint16Array.of(7, 7, 8).buffer;
    expect(painted('strip', points({ pointSourceId: strips }))).toEqual([7, 7, 8].map((id) => abgr(stripColour(id))));
    const colours = new Uint32Array(256);
    [colours[2], colours[6]] = [11, 22];
    expect(painted('class', points(), colours)).toEqual([11, 22, 11]);
  });

  test('returns per pulse are the upper four bits (ASPRS LAS 1.4 R15, table 8); without the attribute there are none', () => {
    expect(valuesOf('return-count', points({ returns: Uint8Array.of(0x11, 0x21, 0xf3).buffer }))).toEqual([1, 2, 15]);
    expect(valuesOf('return-count', points())).toEqual([NaN, NaN, NaN]);
  });

  test('heights are measured from the surface, bilinear, and are missing beside it', () => {
    // A plane that rises 1 in 2 to the east, over the first two points only.
    const grid = {
      columns: 2,
      rows: 2,
      x: 0,
      y: 0,
      step: 1.5,
      elevation: Float32Array.of(0, 0.75, 0, 0.75),
    } as DrawnGrid;
    const [first, second, beside] = valuesOf('height', points(), grid);
    expect(first).toBeCloseTo(0, 6);
    expect(second).toBeCloseTo(2.5 - 0.5, 6);
    expect(beside).toBeNaN();
    expect(valuesOf('difference', points(), grid).slice(0, 2)).toEqual([first, second]);
    expect(valuesOf('height', points())).toEqual([NaN, NaN, NaN]);
  });
});
