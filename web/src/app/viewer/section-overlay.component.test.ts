// @vitest-environment jsdom
import { Screen } from '../screen.fixture';
import { openViews, ORIGIN, type OpenedViews } from './views.fixture';
import { signal } from '@angular/core';
import { beforeEach, describe, expect, test } from 'vitest';
import { cloud, surface } from '../stores.fixture';
import { PictureStore } from './picture-store';
import { SectionOverlayComponent } from './section-overlay.component';
import { TintStore } from './tint-store';

let opened: OpenedViews;
let screen: Screen<SectionOverlayComponent>;
const [E0, N0] = ORIGIN;
const pictures = signal<readonly object[]>([]);

beforeEach(async () => {
  pictures.set([]);
  opened = openViews(
    {
      clouds: [cloud({ id: 1, bounds: { min: [E0, N0, 28], max: [E0 + 400, N0 + 200, 45] } as never })],
      products: [surface(7)],
    },
    {
      providers: [
        { provide: PictureStore, useValue: { drawn: pictures } },
        { provide: TintStore, useValue: { drawn: signal([]) } },
      ],
    },
  );
  opened.views.section.set({ a: [E0 + 100, N0 + 50], b: [E0 + 180, N0 + 50] });
  await opened.settled();
  opened.cameras.section.update((camera) => ({ ...camera!, station: 40, z: 2, unitsPerPixel: 0.1, exaggeration: 1 }));
  screen = await Screen.of(SectionOverlayComponent);
});
const attributes = (selector: string, name: string): number[] =>
  screen.all(selector).map((element) => Number(element.getAttribute(name)));

describe('a section is measured by its axes', () => {
  test('round elevations, higher ones further up, at the scale of the cut', () => {
    const labels = screen.texts('.axis').filter((text) => !text.endsWith(' m'));
    const at = attributes('.grid-line', 'y1');
    const values = labels.map(Number);
    expect(values.length).toBeGreaterThan(3);
    for (let k = 1; k < values.length; k++)
      // 0.1 m a pixel.
      expect(at[k - 1]! - at[k]!).toBeCloseTo((values[k]! - values[k - 1]!) / 0.1, 6);
    // The middle of the cut is 2 m over the level that the scene lies about.
    const { height } = opened.cameras.places().section;
    expect(at[0]! + (values[0]! - 32) / 0.1).toBeCloseTo(height / 2, 6);
  });

  test('drawn out five times, the same elevations lie five times as far apart', async () => {
    const spacing = (): number => {
      const values = screen.texts('.axis').filter((text) => !text.endsWith(' m')).map(Number); // prettier-ignore
      const at = attributes('.grid-line', 'y1');
      return (at[0]! - at[1]!) / (values[1]! - values[0]!);
    };
    const before = spacing();
    opened.cameras.section.update((camera) => ({ ...camera!, exaggeration: 5 }));
    await screen.settled();
    expect(spacing()).toBeCloseTo(5 * before, 6);
  });

  test('what would be cut off at an edge is marked but not written', async () => {
    // Stations of 10 m lie 100 pixels apart; the last one of them is put a few pixels from the right edge.
    opened.cameras.section.update((camera) => ({ ...camera!, station: 40.5 }));
    await screen.settled();
    const ticks = attributes('.tick', 'x1');
    const { width } = opened.cameras.places().section;
    expect(Math.max(...ticks)).toBeCloseTo(width - 5, 6);
    const written = screen.all('.axis').filter((element) => element.textContent?.endsWith(' m'));
    expect(written).toHaveLength(ticks.length - 1);
    for (const element of screen.all('.axis')) expect(Number(element.getAttribute('y'))).toBeGreaterThan(40);
  });

  test('stations with their unit, and both ends by name where the line ends', () => {
    expect(screen.texts('.axis').some((text) => /^\d+ m$/.test(text))).toBe(true);
    expect(screen.texts('.end-label')).toEqual(['A', 'A′']);
    // 80 m of line at 0.1 m a pixel, its middle in the middle of a thousand pixels.
    expect(attributes('.end-line', 'x1')).toEqual([expect.closeTo(100, 6), expect.closeTo(900, 6)]);
  });

  test('without a section there is nothing', async () => {
    opened.views.section.set(undefined);
    await opened.settled();
    await screen.settled();
    expect(screen.all('svg')).toHaveLength(0);
  });
});

describe('the surface along it', () => {
  const profile = (...elevations: number[]) => ({
    stations: Float64Array.from(elevations, (_, k) => 10 * k),
    elevations: Float64Array.from(elevations),
  });

  test('is asked of the worker along the very line, and drawn where it is', async () => {
    const asked = opened.link.questions('profile').at(-1)!;
    expect(asked.about).toEqual({ line: [100, 50, 180, 50] });
    asked.answer(profile(2, 3));
    await opened.settled();
    await screen.settled();
    const { height } = opened.cameras.places().section;
    expect(screen.one('path.surface').getAttribute('d')).toBe(`M100.0,${(height / 2).toFixed(1)}L200.0,${(height / 2 - 10).toFixed(1)}`); // prettier-ignore
  });

  test('is broken where there is none, and not bridged', async () => {
    opened.link
      .questions('profile')
      .at(-1)!
      .answer(profile(2, 2, NaN, 2, 2));
    await opened.settled();
    await screen.settled();
    expect(screen.one('path.surface').getAttribute('d')!.match(/M/g)).toHaveLength(2);
  });

  test('an answer about the line before is thrown away', async () => {
    const first = opened.link.questions('profile').at(-1)!;
    opened.views.section.set({ a: [E0 + 100, N0 + 60], b: [E0 + 180, N0 + 60] });
    await opened.settled();
    const second = opened.link.questions('profile').at(-1)!;
    expect(second.about).toEqual({ line: [100, 60, 180, 60] });
    second.answer(profile(2, 2));
    first.answer(profile(9, 9, 9));
    await opened.settled();
    await screen.settled();
    expect(screen.one('path.surface').getAttribute('d')!.match(/[ML]/g)).toHaveLength(2);
  });
});

describe('the picture along it', () => {
  const RED = 0xff0000ff;

  test('paints the ground line; along the foot too where the surface has gaps', async () => {
    pictures.set([{}]);
    await opened.settled();
    opened.link
      .questions('pictureAlong')
      .at(-1)!
      .answer({ colours: Uint32Array.of(RED, 0, RED), isComplete: true });
    opened.link
      .questions('profile')
      .at(-1)!
      .answer({ stations: Float64Array.of(0, 40, 80), elevations: Float64Array.of(2, NaN, 2) });
    await opened.settled();
    await screen.settled();
    const stops = screen.all('stop').map((stop) => [stop.getAttribute('offset'), stop.getAttribute('stop-color'), stop.getAttribute('stop-opacity')]); // prettier-ignore
    expect(stops).toEqual([['0', 'rgb(255,0,0)', '1'], ['0.5', 'rgb(0,0,0)', '0'], ['1', 'rgb(255,0,0)', '1']]); // prettier-ignore
    expect(screen.has('section-foot')).toBe(true);
  });

  test('asks again while finer tiles are on their way', async () => {
    pictures.set([{}]);
    await opened.settled();
    const before = opened.link.questions('pictureAlong').length;
    opened.link
      .questions('pictureAlong')
      .at(-1)!
      .answer({ colours: Uint32Array.of(RED, RED), isComplete: false });
    await new Promise((resolve) => setTimeout(resolve, 350));
    expect(opened.link.questions('pictureAlong')).toHaveLength(before + 1);
    opened.link
      .questions('pictureAlong')
      .at(-1)!
      .answer({ colours: Uint32Array.of(RED, RED), isComplete: true });
    await new Promise((resolve) => setTimeout(resolve, 350));
    expect(opened.link.questions('pictureAlong')).toHaveLength(before + 1);
  });

  test('where no picture is shown, none is asked for', () => {
    expect(opened.link.questions('pictureAlong')).toHaveLength(0);
    expect(screen.all('stop')).toHaveLength(0);
  });
});

test('what is under the pointer is read along and up; near the right edge to its left', async () => {
  const at = async (station: number): Promise<HTMLElement> => {
    opened.views.cursor.set({ easting: 1, northing: 2, elevation: 33.456, station });
    await screen.settled();
    return screen.one('text.read');
  };
  const left = await at(12.345);
  expect([left.textContent!.trim(), left.style.textAnchor]).toEqual(['12.35 m along, 33.46', 'start']);
  expect((await at(79)).style.textAnchor).toBe('end');
  // Of Plan there is no station: nothing to read here.
  opened.views.cursor.set({ easting: 1, northing: 2 });
  await screen.settled();
  expect(screen.all('text.read')).toHaveLength(0);
});
