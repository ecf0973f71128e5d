// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import { signal } from '@angular/core';
import { beforeEach, describe, expect, test } from 'vitest';
import { cloud, type PretendServer } from '../../stores.fixture';
import { TargetsComponent } from './targets.component';
import { TargetStore } from './target-store';

type Place = readonly [number, number, number];
const surveyed = signal<object[]>([]);
const picked = signal<ReadonlyMap<string, Place>>(new Map());
const waiting = signal<string | undefined>(undefined);
const store = {
  surveyed,
  picked,
  waiting,
  pick: (number: string) => waiting.set(number),
  drop: (number: string) => picked.update((before) => new Map([...before].filter(([other]) => other !== number))),
};
const target = (number: string, role: string, easting: number, northing: number, elevation: number): object => ({
  number, role, easting, northing, elevation,
}); // prettier-ignore
let screen: Screen<TargetsComponent>;
let server: PretendServer;

beforeEach(async () => {
  surveyed.set([target('T1', 'control', 0, 0, 10), target('T2', 'control', 100, 0, 10), target('C1', 'check', 50, 50, 12)]); // prettier-ignore
  picked.set(new Map());
  waiting.set(undefined);
  ({ server } = openJob({ clouds: [cloud({ id: 3 })] }, { providers: [{ provide: TargetStore, useValue: store }] }));
  screen = await Screen.of(TargetsComponent);
});
const rows = (): string[] => screen.texts('tbody tr');
const canRun = (): boolean => !screen.one<HTMLButtonElement>('run-fit-to-targets').disabled;

describe('targets against their surveyed places', () => {
  test('wait to be picked, check points marked as such; until then nothing can be fitted', async () => {
    expect(rows()).toEqual(['T1 pick', 'T2 pick', 'C1 (check) pick']);
    expect([canRun(), screen.one('.why').textContent]).toEqual([false, 'Pick a target in the cloud first.']);
    await screen.press('Pick T2');
    expect(rows()[1]).toBe('T2 click it');
  });

  test('what is left of each is seen before anything moves, and check points judge it', async () => {
    picked.set(new Map<string, Place>([['T1', [0.1, -0.02, 10.05]], ['T2', [100.1, 0.02, 10.05]], ['C1', [50.1, 50, 12.15]]])); // prettier-ignore
    await screen.settled();
    // The shift is the mean of both: 0.1 east, 0 north, 0.05 up; 0.02 north is left of each.
    expect(rows()[0]!.replace(/\s/g, ' ')).toBe('T1 drop 0.020+0.100-0.020+0.050');
    expect(rows()[2]).toContain('0.100');
    const verdict = screen.one('targets-verdict').textContent;
    expect(verdict).toMatch(/^What is left at the targets used: 0\.020.m\. At the 1 kept out: 0\.100.m\.$/);
    screen.one('form').dispatchEvent(new Event('submit', { cancelable: true }));
    expect(server.made('startOperation').at(-1)!.given.body).toMatchObject({
      cloud: 3,
      targets: [{ number: 'T1' }, { number: 'T2' }, { number: 'C1' }],
    });
  });

  test('without check points it asks for some; dropped again, nothing is fitted', async () => {
    picked.set(new Map<string, Place>([['T1', [0.1, 0, 10]]]));
    await screen.settled();
    expect(screen.one('targets-verdict').textContent).toContain('Pick check points too: they judge the result.');
    expect(canRun()).toBe(true);
    await screen.press('Drop T1');
    expect([canRun(), screen.has('targets-verdict')]).toEqual([false, false]);
  });

  test('a fit that needs more targets says so', async () => {
    picked.set(new Map<string, Place>([['T1', [0.1, 0, 10]]]));
    await screen.settled();
    const turn = screen.all<HTMLInputElement>('input[type="radio"]').at(-1)!;
    await screen.tick(turn);
    await screen.settled();
    expect(canRun()).toBe(false);
    expect(screen.one('.why').textContent).toMatch(/\.$/);
  });

  test('without surveyed points it says where they come from', async () => {
    surveyed.set([]);
    await screen.settled();
    expect(screen.one('.why').textContent).toBe('Import control points in Intake first.');
  });
});
