// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { MatDialog } from '@angular/material/dialog';
import { of } from 'rxjs';
import { beforeEach, describe, expect, test } from 'vitest';
import { LayerStore } from '../../state/layer-store';
import { surface, turn } from '../../stores.fixture';
import { DrawingLink } from '../../viewer/drawing-link';
import { TintStore } from '../../viewer/tint-store';
import { TintPanelComponent } from './tint-panel.component';

const spread = { low: 20, high: 40, counts: [4, 16, 0, 4] };
const shownGrid = signal<object | undefined>(undefined);
let screen: Screen<TintPanelComponent>;
let tints: TintStore;
let said: string[];

beforeEach(async () => {
  const layers = {
    shownGrid,
    shownSurfaces: signal([surface(7, { name: 'Ground', facts: { lowest: 20, highest: 40 } as never })]),
    shownSurface: signal(surface(7)),
    shownPictures: signal([]),
    drawnSurface: signal(surface(7, { facts: { lowest: 20, highest: 40 } as never })),
    drawnSurfaces: signal([surface(7, { facts: { lowest: 20, highest: 40 } as never })]),
  };
  const contours = surface(9, { kind: 'contours', parameters: { interval: 0.5, base: 0.25 } } as never);
  ({ said } = openJob(
    { products: [surface(7), contours] },
    {
      providers: [
        TintStore,
        { provide: LayerStore, useValue: layers },
        { provide: DrawingLink, useValue: { ask: () => Promise.resolve(spread) } },
        { provide: MatDialog, useValue: { open: () => ({ afterClosed: () => of('Mine') }) } },
      ],
    },
  ));
  tints = TestBed.inject(TintStore);
  tints.useStops([{ value: 20, colour: '#000000' }, { value: 30, colour: '#ff0000' }, { value: 40, colour: '#ffffff' }]); // prettier-ignore
  screen = await Screen.of(TintPanelComponent);
  await turn(650);
  await screen.settled();
});
const values = (): number[] => tints.stops().map(({ value }) => value);
const fields = (): HTMLInputElement[] => screen.all<HTMLInputElement>('[aria-label="Value"]');

describe('how surfaces are coloured', () => {
  test('bars show how the values are spread, each in the colour it has, none taller than the chart', () => {
    const bars = screen.all('rect');
    expect(bars.map((bar) => Number(bar.getAttribute('height')))).toEqual([28, 56, 0, 28]);
    expect(new Set(bars.map((bar) => bar.getAttribute('fill'))).size).toBeGreaterThan(2);
    expect(screen.all('.stop').map((stop) => /\(([\d.]+)/.exec(stop.getAttribute('transform')!)![1])).toEqual(['6', '140', '274']); // prettier-ignore
  });

  test('a colour lies where it is typed; nonsense puts it back and says why', async () => {
    await screen.type(fields()[1]!, '3500 cm');
    expect(values()).toEqual([20, 35, 40]);
    await screen.type(fields()[1]!, 'up there');
    expect([values()[1], fields()[1]!.value, said.at(-1)]).toEqual([35, '35.00', expect.stringMatching(/^The value stays as it was\./)]); // prettier-ignore
  });

  test('another colour, one more at a double click, one less; two stay at least', async () => {
    const colour = screen.all<HTMLInputElement>('.stops input[type="color"]')[0]!;
    await screen.type(colour, '#00ff00');
    expect(tints.stops()[0]!.colour).toBe('#00ff00');
    const chart = screen.one('svg[role="img"]');
    // A quarter of the way from 20 to 40.
    chart.dispatchEvent(new MouseEvent('dblclick', { clientX: 6 + (280 - 12) / 4 }));
    await screen.settled();
    expect([...values()].sort((a, b) => a - b)).toEqual([20, 25, 30, 40]);
    for (let k = 0; k < 2; k++) await screen.press(screen.all('[aria-label="Take this colour out"]')[0]!);
    expect(values()).toHaveLength(2);
    expect(screen.all('[aria-label="Take this colour out"]')).toHaveLength(0);
  });

  test('bands as high as typed, or those of the contours', async () => {
    await screen.press(screen.one('bands-as-contours'));
    expect([tints.look().band, tints.look().base]).toEqual([0.5, 0.25]);
    const band = screen.one<HTMLInputElement>('[aria-label="Height of a band"]');
    await screen.type(band, '2');
    expect(tints.look().band).toBe(2);
    await screen.type(band, '-1');
    expect([tints.look().band, band.value, said.at(-1)]).toEqual([2, '2', 'The band height stays as it was. It must not be less than 0.']); // prettier-ignore
    await screen.type(band, '0');
    expect(tints.look().band).toBe(0);
  });

  test('by slope the values are degrees', async () => {
    (screen.component as unknown as { colourBy(by: string): void }).colourBy('slope');
    await screen.settled();
    expect(screen.text).toContain('°');
    expect(tints.look().by).toBe('slope');
  });

  test('each surface is as solid as its slide says', async () => {
    const slide = screen.all<HTMLInputElement>('input[type="range"]').find((each) => each.getAttribute('aria-label') === 'How solid Ground is drawn')!; // prettier-ignore
    await screen.type(slide, '0.5');
    expect(tints.opacity(7)).toBe(0.5);
  });
});
