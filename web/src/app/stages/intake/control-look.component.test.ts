// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { ControlStore } from '../../state/control-store';
import { JobStore } from '../../state/job-store';
import { cloud } from '../../stores.fixture';
import { ControlLookComponent } from './control-look.component';

const look = signal<object | undefined>(undefined);
const point = (number: string, elevation: number, difference?: number): object => ({
  id: Number(number), number, code: 'GCP', elevation, ...(difference !== undefined && { difference, cloudElevation: elevation + difference }),
}); // prettier-ignore
const pattern = (facts: object = {}): object => ({ mean: 0.02, rmse: 0.031, worst: -0.06, count: 12, tilt: 0, bow: 0, isTilted: false, isBowed: false, ...facts }); // prettier-ignore
let screen: Screen<ControlLookComponent>;
const open = async (controlCount: number): Promise<void> => {
  openJob(
    { clouds: [cloud({ id: 1, name: 'Flight' })], controlCount },
    { providers: [{ provide: ControlStore, useValue: { look } }] },
  );
  screen = await Screen.of(ControlLookComponent);
};
beforeEach(async () => {
  look.set({ points: [point('1', 30, 0.01), point('2', 31, -0.06), point('3', 32)], pattern: pattern() });
  await open(3);
});
const verdicts = async (facts: object): Promise<string[]> => {
  look.set({ points: [], pattern: pattern(facts) });
  await screen.settled();
  return screen.texts('[data-testid="control-verdict"]');
};

describe('the cloud against control', () => {
  test('the worst first, each with its difference; a point without points about it says so', () => {
    expect(screen.texts('tbody tr').map((row) => row.replace(/\s+/g, ' '))).toEqual([
      '2 GCP31.00030.940-0.060',
      '1 GCP30.00030.010+0.010',
      '3 GCP32.000–no points near',
    ]);
    expect(screen.one('control-rmse').textContent).toBe('0.031');
    expect(screen.texts('.figures .num')).toEqual(['+0.020', '0.031', '-0.060']);
  });

  test('bars go to either side of the middle, the longest to its end', () => {
    const bars = screen.all('.bar i').map(({ style }) => [parseFloat(style.left), parseFloat(style.width)]);
    expect(bars[0]).toEqual([0, 50]);
    expect(bars[1]![0]).toBe(50);
    expect(bars[1]![1]).toBeCloseTo(50 / 6, 3);
    expect(bars[2]).toEqual([50, 0]);
  });

  test('units mixed up, a tilt, a dome: told in words with their size', async () => {
    expect(await verdicts({ unitRatio: 'feet-as-metres' })).toEqual(['The cloud’s elevations are about 3.28 times the surveyed ones. One is in feet, the other in metres.']); // prettier-ignore
    expect((await verdicts({ unitRatio: 'metres-as-feet' }))[0]).toContain('0.305 times');
    expect((await verdicts({ unitRatio: 'survey-foot' }))[0]).toContain('two millionths');
    expect(await verdicts({ isTilted: true, tilt: 0.1234 })).toEqual(['The differences tilt: 0.123 m from one side of the site to the other.']); // prettier-ignore
    expect(await verdicts({ isBowed: true, bow: 0.05, isTilted: true, tilt: 0.1 })).toHaveLength(2);
    expect(await verdicts({ isBowed: true, bow: 0.05 })).toEqual(['The cloud is domed: its middle lies 0.050 m over its edges.']); // prettier-ignore
    expect(await verdicts({ isBowed: true, bow: -0.05 })).toEqual(['The cloud is bowled: its middle lies 0.050 m under its edges.']); // prettier-ignore
  });

  test('nothing found is good only where there are points enough to tell', async () => {
    expect(await verdicts({})).toEqual(['No tilt, no bow, no mix-up of units.']);
    expect(await verdicts({ count: 5 })).toEqual(['Too few points to detect a tilt or a bow.']);
  });

  test('without points it says what they are for; with points and no cloud that none is shown', async () => {
    look.set(undefined);
    await screen.settled();
    expect(screen.text).toContain('No cloud is shown.');
    await open(0);
    expect(screen.text).toContain('Bring in control or check points');
  });

  test('a list comes in in the order and for the use that are chosen', async () => {
    const start = vi.spyOn(TestBed.inject(JobStore), 'startWithFile').mockImplementation(() => undefined);
    const [order, role] = screen.all<HTMLSelectElement>('select');
    await screen.choose(order!, order!.options[1]!.value);
    await screen.choose(role!, 'check');
    const input = screen.one<HTMLInputElement>('control-file');
    const file = new File(['1,2,3'], 'points.csv');
    Object.defineProperty(input, 'files', { value: [file] });
    Object.defineProperty(input, 'value', { value: '', writable: true });
    input.dispatchEvent(new Event('change'));
    expect(start).toHaveBeenCalledWith('import-control', file, { order: order!.options[1]!.value, role: 'check' });
  });
});
