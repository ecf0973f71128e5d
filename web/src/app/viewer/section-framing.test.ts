// @vitest-environment jsdom
import { boundsAround } from '@pampero/core/cloud';
import { describe, expect, test } from 'vitest';
import { sectionToPixel, sectionToScene, type SectionCamera } from '../drawing/cameras';
import { cloud } from '../stores.fixture';
import { landExtent, shiftedBounds } from './land-extent';
import { draggedSection, endsOf, EXAGGERATIONS, framedOn, framedSection, walkedLine, zoomedSection } from './section-framing'; // prettier-ignore
import { isSection, viewPlaces } from './view-places';

const camera: SectionCamera = { ax: 0, ay: 0, bx: 100, by: 0, depth: 5, station: 50, z: 3, unitsPerPixel: 0.1, exaggeration: 2 }; // prettier-ignore
const size = { width: 1000, height: 800 };
const land = { groundLevel: -2, heightSpan: 12 };

describe('a section is framed', () => {
  test('from end to end, with a margin, whatever its length', () => {
    for (const bx of [1, 60, 4000]) {
      const framed = framedSection({ ax: 0, ay: 0, bx, by: 0 }, 5, size, land);
      for (const station of [0, bx]) {
        const [px] = sectionToPixel(framed, [station, 0], size.width, 288);
        expect(px).toBeGreaterThan(0);
        expect(px).toBeLessThan(size.width);
      }
      expect(bx / framed.unitsPerPixel).toBeGreaterThan(0.9 * size.width);
    }
  });

  test('its ground a third of the way up or so: what stands on it has room', () => {
    const framed = framedSection({ ax: 0, ay: 0, bx: 400, by: 0 }, 5, size, land);
    const height = size.height * 0.36;
    const [, py] = sectionToPixel(framed, [0, land.groundLevel], size.width, height);
    expect(1 - py / height).toBeCloseTo(0.3, 6);
  });

  test('heights are drawn out while the land keeps within half of it', () => {
    const of = (bx: number): number => framedSection({ ax: 0, ay: 0, bx, by: 0 }, 5, size, land).exaggeration;
    expect([of(20), of(100_000)]).toEqual([1, 10]);
    for (const bx of [20, 100, 300, 900, 4000]) {
      const { exaggeration, unitsPerPixel } = framedSection({ ax: 0, ay: 0, bx, by: 0 }, 5, size, land);
      if (exaggeration > 1) expect((land.heightSpan * exaggeration) / unitsPerPixel).toBeLessThan(144);
    }
  });

  test('on a doubt of 0.3 m it takes a third of the section, or as much as can be drawn out', () => {
    const framed = framedOn(camera, 7, 0.3, 300);
    expect([framed.z, framed.exaggeration]).toEqual([7, EXAGGERATIONS.at(-1)]);
    expect(framedOn(camera, 7, 5, 300)).toMatchObject({ exaggeration: 2 });
    expect(framedOn(camera, 7, 500, 300)).toMatchObject({ exaggeration: 1 });
  });
});

describe('a section is moved', () => {
  test('what is under the pointer stays under it, dragged and zoomed', () => {
    const at = (of: SectionCamera, px: number, py: number) => sectionToScene(of, px, py, 1000, 300);
    const held = at(camera, 400, 100);
    const dragged = at(draggedSection(camera, 35, -20), 435, 80);
    expect([dragged.station, dragged.z]).toEqual([expect.closeTo(held.station, 9), expect.closeTo(held.z, 9)]);
    const zoomed = at(zoomedSection(camera, 0.4, held), 400, 100);
    expect([zoomed.station, zoomed.z]).toEqual([expect.closeTo(held.station, 9), expect.closeTo(held.z, 9)]);
  });

  test('its line walks along itself and to its left, and keeps its length', () => {
    const line = { a: [10, 10], b: [13, 14] } as const; // three, four, five
    expect(walkedLine(line, 5, 0)).toEqual({ a: [13, 14], b: [16, 18] });
    const left = walkedLine(line, 0, 5);
    expect(left).toEqual({ a: [expect.closeTo(6, 9), expect.closeTo(13, 9)], b: [expect.closeTo(9, 9), expect.closeTo(17, 9)] }); // prettier-ignore
    // A line of no length stays where it is told to go, and is no NaN.
    expect(walkedLine({ a: [1, 1], b: [1, 1] }, 5, 5)).toEqual({ a: [1, 1], b: [1, 1] });
  });

  test('lines far from nought become scene coordinates without losing millimetres', () => {
    expect(endsOf({ a: [5_512_000.123, 6_150_000.456], b: [5_512_100.5, 6_150_000] }, [5_512_000, 6_150_000, 30])).toEqual({
      ax: expect.closeTo(0.123, 6), ay: expect.closeTo(0.456, 6), bx: expect.closeTo(100.5, 6), by: 0,
    }); // prettier-ignore
  });
});

describe('where views lie', () => {
  const layout = { ...size, isBoth: false, hasSection: false, isCompared: false };

  test('one alone has all of it; two stand side by side with a gap, and none over the edge', () => {
    expect(viewPlaces(layout).plan).toEqual({ left: 0, top: 0, width: 1000, height: 800 });
    const { plan, model } = viewPlaces({ ...layout, isBoth: true });
    expect(plan.left + plan.width).toBeLessThan(model.left);
    expect(model.left + model.width).toBeLessThanOrEqual(1000);
  });

  test('a section lies below, two of them one above the other, and nothing overlaps', () => {
    for (const isCompared of [false, true]) {
      const { plan, section, after } = viewPlaces({ ...layout, hasSection: true, isCompared });
      expect(plan.height).toBeLessThan(section.top);
      if (isCompared) expect(section.top + section.height).toBeLessThan(after.top);
      expect((isCompared ? after : section).top + section.height).toBe(800);
      expect(plan.height).toBeGreaterThan(200);
    }
  });

  test('a comparison without a section takes no room', () => {
    expect(viewPlaces({ ...layout, isCompared: true }).plan.height).toBe(800);
    expect((['plan', 'section', 'after', 'model'] as const).map(isSection)).toEqual([false, true, true, false]);
  });
});

describe('how far land reaches', () => {
  const clouds = [
    cloud({ id: 1, bounds: { min: [0, 0, -50], max: [10, 10, 90] } }),
    cloud({ id: 2, bounds: { min: [-5, 3, 0], max: [4, 30, 5] } }),
  ];

  test('all clouds together, strays left out of heights', () => {
    expect(boundsAround(clouds.map(({ bounds }) => bounds))).toEqual({ min: [-5, 0, -50], max: [10, 30, 90] });
    // The clouds of the fixture say that 1 to 99 % of them lie from 10 to 20.
    expect(landExtent(clouds, [0, 0, 4])).toEqual({ groundLevel: 6, heightSpan: 10 });
    expect(landExtent([], [0, 0, 4])).toEqual({ groundLevel: 0, heightSpan: 1 });
  });

  test('flat land still has a height to be drawn in', () => {
    const flat = cloud({ id: 3 });
    expect(landExtent([{ ...flat, source: { ...flat.source, elevationRange: [7, 7] } }], [0, 0, 0]).heightSpan).toBe(1);
    expect(shiftedBounds({ min: [5, 5, 5], max: [6, 6, 6] }, [5, 5, 5])).toEqual({ min: [0, 0, 0], max: [1, 1, 1] });
  });
});
