// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import { signal } from '@angular/core';
import { beforeEach, describe, expect, test } from 'vitest';
import { LayerStore } from '../../state/layer-store';
import { ContourLabels } from '../../viewer/contour-labels';
import { DrawingLink } from '../../viewer/drawing-link';
import { ViewCameras } from '../../viewer/view-cameras';
import { ContourPreviewComponent } from './contour-preview.component';

const tried = signal<object | undefined>(undefined);
const shownSurface = signal<object | undefined>({});
const asked: Record<string, unknown>[] = [];
let answers: ((value: unknown) => void)[] = [];
let screen: Screen<ContourPreviewComponent>;

beforeEach(async () => {
  tried.set(undefined);
  shownSurface.set({ id: 1 });
  asked.length = 0;
  answers = [];
  openJob(
    {},
    {
      providers: [
        { provide: LayerStore, useValue: { shownSurface } },
        { provide: ViewCameras, useValue: { planWindow: signal({ west: 0 }) } },
        { provide: ContourLabels, useValue: { tried } },
        {
          provide: DrawingLink,
          useValue: {
            ask: (_: string, given: Record<string, unknown>) => {
              asked.push(given);
              return new Promise((resolve) => answers.push(resolve));
            },
          },
        },
      ],
    },
  );
  screen = await Screen.of(ContourPreviewComponent, { values: { interval: 0.5, baseElevation: 10, indexEvery: 5 } });
});
const turnOn = (): Promise<void> => screen.tick(screen.one<HTMLInputElement>('input[type="checkbox"]'));
const answer = async (lines: number, at = answers.length - 1): Promise<void> => {
  answers[at]!({ index: new Float32Array(), between: new Float32Array(), lines });
  await screen.settled();
  await screen.settled();
};

describe('contours while the interval is chosen', () => {
  test('are not drawn before they are asked for', () => {
    expect([asked, screen.text]).toEqual([[], expect.stringContaining('Preview contours.')]);
    expect(screen.has('interval-slide')).toBe(false);
  });

  test('are those of the form, in the view', async () => {
    await turnOn();
    expect(asked).toEqual([{ interval: 0.5, base: 10, indexEvery: 5, window: { west: 0 } }]);
    expect(screen.text).toContain('Looking…');
    await answer(1234);
    expect(screen.text.replace(/[\u202f\u2009]/g, ' ')).toMatch(/1 234 lines in this view, \d+ ms/);
    expect(tried()).toMatchObject({ lines: 1234 });
  });

  test('the slide goes over the steps that plans are drawn at, and stands at the nearest', async () => {
    await turnOn();
    const chosen: number[] = [];
    screen.component.chosen.subscribe((interval) => chosen.push(interval));
    const slide = screen.one<HTMLInputElement>('interval-slide');
    expect(slide.value).toBe('4');
    await screen.type(slide, '5');
    expect(chosen).toEqual([1]);
    await screen.set('values', { interval: '80 cm' });
    expect(asked.at(-1)!['interval']).toBeCloseTo(0.8, 9);
    expect(slide.value).toBe('5');
  });

  test('an answer that comes late does not stand for the newer one', async () => {
    await turnOn();
    await screen.set('values', { interval: 1 });
    await answer(10, 1);
    await answer(99, 0);
    expect(tried()).toMatchObject({ lines: 10 });
  });

  test.each([0, -1, '', 'wide', undefined])('an interval of %j draws none', async (interval) => {
    await turnOn();
    await answer(5);
    await screen.set('values', { interval });
    expect(tried()).toBeUndefined();
  });

  test('without a surface, and once turned off, there are none', async () => {
    await turnOn();
    await answer(5);
    shownSurface.set(undefined);
    await screen.settled();
    expect(tried()).toBeUndefined();
    shownSurface.set({ id: 2 });
    await screen.settled();
    await answer(6);
    await turnOn();
    expect(tried()).toBeUndefined();
  });
});
