// @vitest-environment jsdom
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { CORNER_SOURCES, LineIndex, shapeOf } from '@pampero/core/lines';
import { beforeEach, describe, expect, test } from 'vitest';
import { LineStore, type CodedLine } from '../../state/line-store';
import { storesOver } from '../../stores.fixture';
import { DrawingLink } from '../../viewer/drawing-link';
import { ViewCameras } from '../../viewer/view-cameras';
import { LinePlaces, type FoundPlace } from './line-places';

/** The middle of the land is at 1000, 2000, 50; a pixel of Plan is a tenth of a unit, from that middle. */
const ORIGIN = [1000, 2000, 50] as const;
const kerb: CodedLine = { ...shapeOf([{ e: 1000, n: 2000, z: 51, source: 2 }, { e: 1010, n: 2000, z: 52, source: 2 }], false), key: 1, entry: 1, code: 'KERB' }; // prettier-ignore
const bare: CodedLine = { ...shapeOf([{ e: 1000, n: 2020, z: NaN, source: 0 }, { e: 1010, n: 2020, z: NaN, source: 0 }], false), key: 2, entry: 1, code: 'EDGE' }; // prettier-ignore

/** What the drawing worker answers. */
let around: { lowest: number; median: number; nearest: [number, number, number] } | undefined;
let surfaceAt: { elevation: number | undefined } | undefined;
let picked: { easting: number; northing: number; elevation: number } | undefined;
let asked: { question: string; about: unknown }[];
const section = signal<unknown>(undefined);
let places: LinePlaces;
const sourceOf = (found: FoundPlace | undefined): string | undefined => found && CORNER_SOURCES[found.source];

beforeEach(() => {
  asked = [];
  [around, surfaceAt, picked] = [{ lowest: 0.1, median: 0.4, nearest: [30.2, 40.1, 0.3] }, { elevation: 77 }, undefined]; // prettier-ignore
  section.set(undefined);
  storesOver(
    () => undefined,
    [
      LinePlaces,
      {
        provide: ViewCameras,
        useValue: {
          origin: () => ORIGIN,
          places: () => ({ plan: { width: 800, height: 600 }, section: { width: 800, height: 300 }, model: { width: 800, height: 600 } }), // prettier-ignore
          hold: (_: string, px: number, py: number) => [px / 10, py / 10],
          plan: () => ({ unitsPerPixel: 0.1 }),
          section,
          project: (_: string, place: readonly number[]) => place,
        },
      },
      {
        provide: DrawingLink,
        useValue: {
          ask: (question: string, about: unknown) => {
            asked.push({ question, about });
            return Promise.resolve(question === 'around' ? around : surfaceAt);
          },
          pick: () => Promise.resolve(picked),
        },
      },
      {
        provide: LineStore,
        useValue: { shownLines: () => [kerb, bare], index: () => new LineIndex([kerb, bare]) },
      },
    ],
  );
  places = TestBed.inject(LinePlaces);
});

describe('in Plan', () => {
  test('a vertex of a line holds place, elevation and where that is from', async () => {
    const found = await places.find('plan', 103, 4);
    expect(found).toMatchObject({ e: 1010, n: 2000, z: 52, pull: 'corner' });
    expect(found!.source).toBe(2);
    expect(asked).toEqual([]);
  });

  test('its side gives the elevation between its vertices, and says so', async () => {
    const found = await places.find('plan', 50, 5);
    expect(found).toMatchObject({ e: 1005, n: 2000, pull: 'side' });
    expect(found!.z).toBeCloseTo(51.5, 9);
    expect(sourceOf(found)).toBe('between');
  });

  test('a line without elevations holds the place only: the points give the height', async () => {
    const found = await places.find('plan', 52, 203);
    expect(found).toMatchObject({ e: 1005.2, n: 2020, pull: 'side' });
    expect(found!.z).toBeCloseTo(50.3, 9);
    expect(sourceOf(found)).toBe('point');
  });

  test('one that is dragged is not drawn to itself', async () => {
    const found = await places.find('plan', 103, 4, { without: (snap) => snap.line === 0 });
    expect(found!.pull).toBeUndefined();
    expect([found!.e, found!.n]).toEqual([1010.3, 2000.4]);
  });

  test('with no magnets a free place stays where the leg is held', async () => {
    for (const pull of ['corner', 'crossing', 'side', 'perpendicular'] as const) places.togglePull(pull);
    const found = await places.find('plan', 103, 4, { hold: ([e]) => [e, 2000] });
    expect([found!.e, found!.n, found!.pull]).toEqual([1010.3, 2000, undefined]);
    places.togglePull('corner');
    expect((await places.find('plan', 103, 4))!.pull).toBe('corner');
  });

  test.each([
    ['nearest', 50.3, 'point'],
    ['lowest', 50.1, 'point'],
    ['median', 50.4, 'point'],
    ['surface', 77, 'surface'],
    ['typed', 12.5, 'typed'],
  ] as const)('elevation from %s', async (source, z, from) => {
    places.heightSource.set(source);
    places.typed.set(12.5);
    const found = await places.find('plan', 300, 400);
    expect([found!.e, found!.n, sourceOf(found)]).toEqual([1030, 2040, from]);
    expect(found!.z).toBeCloseTo(z, 9);
  });

  test('points are looked for in the circle about the place, in the scene’s own coordinates, and only ground', async () => {
    places.radius.set(0.8);
    await places.find('plan', 300, 400);
    expect(asked).toEqual([{ question: 'around', about: { at: [30, 40], radius: 0.8, classes: [2] } }]);
  });

  test('the magnet of points takes the place to the nearest one', async () => {
    places.togglePull('point');
    const found = await places.find('plan', 300, 400);
    expect(found).toMatchObject({ e: 1030.2, n: 2040.1, pull: 'point' });
  });

  test('where nothing tells an elevation there is none, and no wrong one', async () => {
    [around, surfaceAt] = [undefined, { elevation: undefined }];
    for (const source of ['nearest', 'lowest', 'median', 'surface', 'typed'] as const) {
      places.heightSource.set(source);
      const found = await places.find('plan', 300, 400);
      expect([found!.z, found!.source], source).toEqual([NaN, 0]);
    }
  });
});

describe('in Model and Section', () => {
  test('the point that is seen is meant', async () => {
    picked = { easting: 1003, northing: 2004, elevation: 55 };
    const found = await places.find('model', 10, 10);
    expect(found).toMatchObject({ e: 1003, n: 2004, z: 55, pull: 'point' });
    places.heightSource.set('lowest');
    expect((await places.find('model', 10, 10))!.z).toBeCloseTo(50.1, 9);
    places.heightSource.set('surface');
    expect(await places.find('model', 10, 10)).toMatchObject({ e: 1003, n: 2004, z: 77 });
  });

  test('where Model shows no point there is no place', async () => {
    expect(await places.find('model', 10, 10)).toBeUndefined();
  });
});
