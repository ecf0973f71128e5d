// @vitest-environment jsdom
import { HeightField } from '@pampero/core/client-view';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { Measuring, type ToolId } from './measuring.js';

const charts: { data: { datasets: { data: { x: number; y: number }[] }[] } }[] = [];
const destroyed = vi.fn();
vi.mock('chart.js', () => {
  class Chart {
    static register(): void {
      // Nothing is drawn here.
    }
    readonly destroy = destroyed;
    constructor(_: unknown, config: (typeof charts)[number]) {
      charts.push(config);
    }
  }
  const part = {};
  return { Chart, CategoryScale: part, Filler: part, LinearScale: part, LineController: part, LineElement: part, PointElement: part, Tooltip: part }; // prettier-ignore
});

/** A plane that rises by a tenth to the east, 50 by 50 m in cells of a metre, 100 m over the datum at its western edge. */
const SIDE = 50;
const heights = Float32Array.from({ length: SIDE * SIDE }, (_, k) => 0.1 * ((k % SIDE) + 0.5));
const land = new HeightField({ columns: SIDE, rows: SIDE, cell: 1 }, heights);
const drawn: unknown[][] = [];
let measuring: Measuring;
const reading = (): string => document.getElementById('reading')!.textContent.replace(/[\u202f\u2009\u00a0]/g, ' ');
const begin = (tool: ToolId): void => {
  measuring.choose(tool);
};
const on = (x: number, y: number): [number, number, number] => [x, y, 0.1 * x];

beforeEach(() => {
  document.body.innerHTML = '<div id="reading"></div>';
  charts.length = 0;
  drawn.length = 0;
  destroyed.mockClear();
  const scene = { measure: (places: unknown[], closed: boolean) => drawn.push([places.length, closed]) };
  measuring = new Measuring(scene as never, land, { unit: { short: 'm' } } as never, 100, 1);
});

describe('what a client measures', () => {
  test('looking adds no places and reads nothing', () => {
    begin('look');
    measuring.add(on(1, 1));
    expect(document.getElementById('reading')!.hidden).toBe(true);
    expect(drawn).toEqual([[0, false]]);
  });

  test('a distance, flat and with the rise; before two places it says what to do', () => {
    begin('distance');
    expect(reading()).toBe('Tap two places or more.');
    measuring.add(on(10, 10));
    measuring.add(on(40, 50));
    // 30 east and 40 north: 50 flat; 3 higher: √2509 = 50.09.
    expect(reading()).toContain('50.00 m measured flat, as on a map');
    expect(reading()).toContain('50.09 m with the rise and fall');
    expect(reading()).toContain('3.00 m higher at the end');
    measuring.takeBack();
    measuring.add(on(0, 10));
    expect(reading()).toContain('1.00 m lower at the end');
  });

  test('an area, and the ground over a height that can be typed: a wedge by hand', () => {
    begin('area');
    for (const [x, y] of [[10, 10], [30, 10], [30, 30], [10, 30]] as const) measuring.add(on(x, y)); // prettier-ignore
    expect(reading()).toContain('400.0 m² seen from above');
    // Over the lowest corner (101 m): a wedge of 20 × 20 × 2 / 2 = 400 m³.
    const [above, below] = [...document.getElementById('volume')!.textContent.matchAll(/([\d.]+) m³/g)].map(([, n]) => Number(n)); // prettier-ignore
    expect(above).toBeGreaterThan(392);
    expect(above).toBeLessThan(408);
    expect(below).toBeLessThan(1);
    const level = document.getElementById('level') as HTMLInputElement;
    expect(level.value).toBe('101.00');
    level.value = '102';
    level.dispatchEvent(new Event('change'));
    const halves = [...document.getElementById('volume')!.textContent.matchAll(/([\d.]+) m³/g)].map(([, n]) => Number(n)); // prettier-ignore
    for (const half of halves) expect(Math.abs(half - 100)).toBeLessThan(4);
    expect(drawn.at(-1)).toEqual([4, true]);
  });

  test('a level that is no number leaves it as it was', () => {
    begin('area');
    for (const [x, y] of [[10, 10], [30, 10], [30, 30]] as const) measuring.add(on(x, y)); // prettier-ignore
    const level = document.getElementById('level') as HTMLInputElement;
    level.type = 'text';
    level.value = 'high';
    level.dispatchEvent(new Event('change'));
    expect((document.getElementById('level') as HTMLInputElement).value).toBe('101.00');
  });

  test('a profile is drawn from end to end in heights over the datum', () => {
    begin('profile');
    measuring.add(on(5, 25));
    measuring.add(on(45, 25));
    expect(reading()).toContain('40.00 m long');
    expect(reading()).toContain('lowest 100.50 m, highest 104.50 m');
    const { data } = charts.at(-1)!.data.datasets[0]!;
    expect([data[0]!.x, data.at(-1)!.x]).toEqual([0, 40]);
    expect(data[0]!.y).toBeCloseTo(100.5, 3);
    expect(data.at(-1)!.y).toBeCloseTo(104.5, 3);
  });

  test('a profile where there is no land says so', () => {
    begin('profile');
    measuring.add([500, 500, 0]);
    measuring.add([600, 500, 0]);
    expect(reading()).toContain('100.00 m long');
    expect(reading()).toContain('no land along it');
    expect(reading()).not.toMatch(/Infinity|NaN/);
  });

  test('begun again, the chart before is put away', () => {
    begin('profile');
    measuring.add(on(5, 25));
    measuring.add(on(45, 25));
    [...document.querySelectorAll('button')].find(({ textContent }) => textContent === 'Begin again')!.click();
    expect(destroyed).toHaveBeenCalledOnce();
    expect(reading()).toContain('Tap where the profile begins and ends');
    expect(document.querySelectorAll('canvas')).toHaveLength(0);
  });
});
