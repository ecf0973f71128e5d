// @vitest-environment jsdom
import { openJob, Screen } from '../screen.fixture';
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { MatDialog } from '@angular/material/dialog';
import { of } from 'rxjs';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { ViewStore } from '../state/view-store';
import type { PretendServer } from '../stores.fixture';
import { DrawingLink } from '../viewer/drawing-link';
import { ViewCameras } from '../viewer/view-cameras';
import { MeasureBarComponent } from './measure-bar.component';
import { MeasureStore } from './measure-store';

let screen: Screen<MeasureBarComponent>;
let measures: MeasureStore;
let views: ViewStore;
let said: string[];
let server: PretendServer;
const forgetSection = vi.fn();
const writeText = vi.fn(() => Promise.resolve());

beforeEach(async () => {
  vi.clearAllMocks();
  Object.defineProperty(navigator, 'clipboard', { value: { writeText }, configurable: true });
  const cameras = { forgetSection, origin: signal([0, 0, 0]) };
  ({ said, server } = openJob(
    {},
    {
      providers: [
        MeasureStore,
        { provide: ViewCameras, useValue: cameras },
        { provide: DrawingLink, useValue: { ask: () => Promise.resolve(undefined) } },
        { provide: MatDialog, useValue: { open: () => ({ afterClosed: () => of('Crest') }) } },
      ],
    },
  ));
  measures = TestBed.inject(MeasureStore);
  views = TestBed.inject(ViewStore);
  views.takeTool('measure');
  screen = await Screen.of(MeasureBarComponent);
});
const at = async (...places: [number, number, number][]): Promise<void> => {
  for (const place of places) measures.add(place);
  await screen.settled();
};
const rows = (): Record<string, string> =>
  Object.fromEntries(screen.all('dl > div').map((row) => [row.children[0]!.textContent, row.children[1]!.textContent.replace(/[\u202f\u2009\u00a0]/g, ' ').trim()])); // prettier-ignore

describe('what was measured', () => {
  test('is there while the tool is in hand; before the first click it says what to do', async () => {
    expect(screen.one('.soft').textContent.length).toBeGreaterThan(10);
    views.takeTool('look');
    await screen.settled();
    expect(screen.text).toBe('');
  });

  test('a distance of 3, 4 and 12: 5 in plan, 13 in space, a rise of 12', async () => {
    await at([0, 0, 0], [3, 4, 12]);
    const values = Object.values(rows()).join(' | ');
    for (const figure of ['5.000 m', '13.000 m', '12.000 m']) expect(values).toContain(figure);
  });

  test('is copied by the button and by Y, but not while something is typed', async () => {
    await at([0, 0, 0], [3, 4, 0]);
    await screen.press(screen.one('copy-measure'));
    await screen.key(document.body, 'y');
    expect(writeText).toHaveBeenCalledTimes(2);
    const field = document.body.appendChild(document.createElement('input'));
    await screen.key(field, 'y');
    await screen.key(document.body, 'y', { ctrlKey: true });
    expect(writeText).toHaveBeenCalledTimes(2);
    field.remove();
    expect(said.at(-1)).toBe('Copied.');
  });

  test('a browser that blocks copying is told of', async () => {
    writeText.mockRejectedValueOnce(new Error('no'));
    await at([0, 0, 0], [3, 4, 0]);
    await screen.press(screen.one('copy-measure'));
    expect(said.at(-1)).toBe('The browser blocks copying. Select the figures and copy them.');
  });

  test('a section is laid along it, but not along nothing', async () => {
    await at([1, 2, 0], [1, 2, 5]);
    await screen.press(screen.one('section-along'));
    expect([views.section(), said.at(-1)]).toEqual([undefined, 'The line ends where it begins. A section needs two ends.']); // prettier-ignore
    measures.clear();
    await at([1, 2, 0], [9, 9, 9], [11, 2, 5]);
    await screen.press(screen.one('section-along'));
    expect(views.section()).toEqual({ a: [1, 2], b: [11, 2] });
    expect(forgetSection).toHaveBeenCalledOnce();
  });

  test('is kept in the job under a name', async () => {
    await at([0, 0, 0], [3, 4, 0]);
    await screen.press('Keep …');
    expect(server.calls.at(-1)).toMatchObject({ given: { body: { kind: 'measure', name: 'Crest', how: 'distance', places: [[0, 0, 0], [3, 4, 0]] } } }); // prettier-ignore
  });

  test('a volume over a level that is typed; nonsense leaves the level', async () => {
    await screen.press(screen.one('measure-volume'));
    await at([0, 0, 10], [10, 0, 10], [10, 10, 10]);
    await screen.type('measure-level', '9.5');
    expect(measures.usedLevel()).toBe(9.5);
    await screen.type('measure-level', 'deep');
    expect([measures.usedLevel(), said.at(-1)]).toEqual([9.5, expect.stringMatching(/^The level stays as it was\. “deep”/)]); // prettier-ignore
    expect(screen.one<HTMLInputElement>('measure-level').value).toBe('9.50');
  });

  test('is cleared', async () => {
    await at([0, 0, 0], [3, 4, 0]);
    await screen.press('Clear');
    expect(rows()).toEqual({});
  });
});
