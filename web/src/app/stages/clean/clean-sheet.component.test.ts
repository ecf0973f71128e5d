// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { LookStore } from '../../state/look-store';
import { ViewStore } from '../../state/view-store';
import { cloud, turn } from '../../stores.fixture';
import { SelectionStore } from '../../tools/selection-store';
import { DrawingLink } from '../../viewer/drawing-link';
import { ViewCameras } from '../../viewer/view-cameras';
import { CleanSheetComponent } from './clean-sheet.component';

const asked: { preview?: { filter: { kind: string }; region: { a: number[]; b: number[]; half: number }; leftOut: number[] } }[] = []; // prettier-ignore
let answer: object | undefined;
const draw = vi.fn();
const selectBoundary = vi.fn();
const planOutline = signal<readonly (readonly [number, number])[] | undefined>(undefined);
const cameras = {
  jobBounds: () => ({ min: [0, 0, 10], max: [100, 100, 20] }),
  plan: signal({ x: 50, y: 50, unitsPerPixel: 0.1 }),
  places: signal({ plan: { width: 400, height: 200 } }),
  origin: signal([0, 0, 0]),
};
let screen: Screen<CleanSheetComponent>;

async function open(clouds = [cloud({ id: 1, classCounts: { '1': 970, '7': 20, '18': 10 }, pointCount: 1000 })]) {
  vi.clearAllMocks();
  asked.length = 0;
  answer = { found: 12, judged: 3000, milliseconds: 7, isTooMany: false, places: [1, 2, 3] };
  planOutline.set(undefined);
  openJob(
    { clouds },
    {
      answers: (id) => (id === 'proposeSettings' ? { parameters: {}, reasons: [] } : undefined),
      providers: [
        { provide: ViewCameras, useValue: cameras },
        { provide: SelectionStore, useValue: { draw, selectBoundary, planOutline } },
        {
          provide: DrawingLink,
          useValue: { ask: (_: string, given: (typeof asked)[number]) => (asked.push(given), Promise.resolve(answer)) },
        },
      ],
    },
  );
  screen = await Screen.of(CleanSheetComponent);
  await turn(120);
  await screen.settled();
}
const plain = (text: string): string => text.replace(/[\u202f\u2009\u00a0]/g, ' ');

describe('cleaning', () => {
  beforeEach(() => open());

  test('begins with what is noise by now', () => {
    expect(screen.texts('.figures .num').map(plain)).toEqual(['3.0 %', '20', '10']);
  });

  test('what a search would find is shown in the view before it runs', () => {
    expect(asked.at(-1)!.preview).toMatchObject({
      filter: { kind: 'low' },
      // 40 by 20 m about the middle of the plan.
      region: { a: [30, 50], b: [70, 50], half: 10 },
    });
    expect(plain(screen.one('preview-count').textContent)).toBe('12 of 3 000 points in view');
    expect(TestBed.inject(LookStore).ringed()).toEqual([1, 2, 3]);
  });

  test('in a section it is the section that is looked at', async () => {
    const views = TestBed.inject(ViewStore);
    views.section.set({ a: [10, 10], b: [30, 10] });
    views.sectionDepth.set(4);
    await screen.settled();
    await turn(120);
    await screen.settled();
    expect(asked.at(-1)!.preview!.region).toMatchObject({ a: [10, 10], b: [30, 10], half: 2 });
    expect(screen.one('preview-count').textContent).toContain('in the section');
  });

  test('another search, another preview; turned off there is none', async () => {
    await screen.press(screen.one('find-isolated'));
    await turn(120);
    expect(asked.at(-1)!.preview!.filter.kind).toBe('isolated');
    await screen.tick(screen.one('preview-on'));
    await turn(120);
    expect(asked.at(-1)!.preview).toBeUndefined();
    expect(screen.has('preview-count')).toBe(false);
  });

  test('too many points in view: it says how to have a preview', async () => {
    answer = { found: 0, judged: 0, milliseconds: 0, isTooMany: true };
    await screen.press(screen.one('find-outliers'));
    await turn(120);
    await screen.settled();
    expect(screen.one('preview-count').textContent).toBe('Zoom in or draw a section to preview.');
  });

  test('a source that does not say how sure it is has no search for what it is unsure of', async () => {
    expect(screen.has('find-unreliable')).toBe(false);
    await open([cloud({ id: 1, hasConfidence: true })]);
    expect(screen.has('find-unreliable')).toBe(true);
  });

  test('left, it takes its rings with it', () => {
    screen.component.ngOnDestroy();
    expect(TestBed.inject(LookStore).ringed()).toEqual([]);
    expect(asked.at(-1)!.preview).toBeUndefined();
  });
});

describe('ranges and boundaries', () => {
  beforeEach(() => open());
  const select = (from: string, to: string): void => {
    const component = screen.component as unknown as { from: { set(v: string): void }; to: { set(v: string): void }; selectRange(): void; rangeProblem(): string }; // prettier-ignore
    component.from.set(from);
    component.to.set(to);
    component.selectRange();
  };
  const problem = (): string => (screen.component as unknown as { rangeProblem(): string }).rangeProblem();

  test.each([
    ['12', '', { from: 12 }],
    ['', '1500 cm', { to: 15 }],
    ['12', '15', { from: 12, to: 15 }],
  ])('from “%s” to “%s” is drawn', (from, to, range) => {
    select(from, to);
    expect(draw).toHaveBeenCalledWith({ kind: 'range', attribute: 'elevation', ...range });
    expect(problem()).toBe('');
  });

  test.each([
    ['', '', 'Give at least one end of the range.'],
    ['15', '12', 'The range runs from 15.00 to 12.00. Give the lower end first.'],
    ['deep', '', /“deep” is not a length/],
    ['1', 'high', /“high” is not a length/],
  ])('from “%s” to “%s” is refused', (from, to, says) => {
    select(from, to);
    expect(draw).not.toHaveBeenCalled();
    expect(problem()).toMatch(says);
  });

  test('a boundary needs an outline, and a margin that can be read', () => {
    const component = screen.component as unknown as { selectBoundary(side: string): void; buffer: { set(v: string): void } }; // prettier-ignore
    component.selectBoundary('inside');
    expect(problem()).toBe('Draw an outline in Plan first. It becomes the boundary.');
    planOutline.set([[0, 0], [1, 0], [1, 1]]); // prettier-ignore
    component.buffer.set('wide');
    component.selectBoundary('outside');
    expect(problem()).toMatch(/“wide” is not a length/);
    component.buffer.set('2 m');
    component.selectBoundary('outside');
    expect(selectBoundary).toHaveBeenCalledWith(planOutline(), 2, 'outside');
    expect(problem()).toBe('');
  });
});

test('without a cloud it says where one comes from', async () => {
  await open([]);
  expect(screen.text).toContain('There is no cloud yet. Import one in Intake.');
});
