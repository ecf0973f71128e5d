// @vitest-environment jsdom
import { openJob, Screen } from '../screen.fixture';
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { MatDialog } from '@angular/material/dialog';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { LayerStore } from '../state/layer-store';
import { LineStore } from '../state/line-store';
import { LookStore } from '../state/look-store';
import { cloud, surface } from '../stores.fixture';
import { LayersComponent } from './layers.component';

const open = vi.fn(() => ({ afterClosed: () => ({ subscribe: () => undefined }) }));
let screen: Screen<LayersComponent>;
let job: ReturnType<typeof openJob>['job'];

beforeEach(async () => {
  open.mockClear();
  const lines = surface(9, { kind: 'lines', name: 'BANK-TOP', facts: { code: 'BANK-TOP', lines: 3, corners: 40 } } as never); // prettier-ignore
  const codes = new Map([['BANK-TOP', { colour: '#8a4b1f' }]]);
  ({ job } = openJob(
    {
      clouds: [
        cloud({ id: 1, name: 'East', pointCount: 900, classCounts: { '2': 600, '5': 300 } }),
        cloud({ id: 2, name: 'West', pointCount: 100, classCounts: { '2': 100 } }),
      ],
      products: [surface(7, { isStale: true, staleBecause: 'East has other classes now.' }), lines],
    },
    {
      providers: [
        { provide: LineStore, useValue: { codeOf: signal((code: string) => codes.get(code)) } },
        { provide: MatDialog, useValue: { open } },
      ],
    },
  ));
  screen = await Screen.of(LayersComponent);
});

describe('layers', () => {
  test('are grouped by what they are, with their counts; what there is none of has no heading', () => {
    const headings = screen.texts('h2');
    expect(headings[0]).toMatch(/^Clouds/);
    expect(headings[1]).toMatch(/^Classes/);
    expect(headings.some((heading) => heading.startsWith('Surfaces'))).toBe(true);
    expect(headings.some((heading) => heading.startsWith('Grids'))).toBe(false);
    expect(screen.texts('.row .name').slice(0, 2)).toEqual(['East', 'West']);
  });

  test('say what is stale', () => {
    expect(screen.texts('.stale')).toEqual(['stale']);
  });

  test('lines have the colour of their code', () => {
    const row = screen.all('.row').find(({ textContent }) => textContent.includes('BANK-TOP'))!;
    expect(row.querySelector<HTMLElement>('.swatch')!.style.background).toMatch(/#8a4b1f|rgb\(138, 75, 31\)/);
  });

  test('an eye hides and shows, and says so', async () => {
    const eye = screen.one('eye-cloud-1');
    expect([eye.getAttribute('aria-label'), eye.getAttribute('aria-pressed')]).toEqual(['Show East', 'true']);
    await screen.press(eye);
    expect(TestBed.inject(LayerStore).isShown('cloud-1' as never)).toBe(false);
    expect(screen.one('eye-cloud-1').getAttribute('aria-pressed')).toBe('false');
    await screen.press(screen.one('eye-cloud-1'));
    expect(TestBed.inject(LayerStore).isShown('cloud-1' as never)).toBe(true);
  });

  test('classes over all clouds: a click hides one, a double click leaves it alone', async () => {
    expect(screen.texts('.class')).toEqual(['2 Ground700', '5 High vegetation300']);
    const look = TestBed.inject(LookStore);
    await screen.press(screen.one('class-5'));
    expect([...look.hiddenClasses()]).toEqual([5]);
    await screen.press(screen.one('class-5'));
    expect([...look.hiddenClasses()]).toEqual([]);
    screen.one('class-5').dispatchEvent(new MouseEvent('dblclick', { bubbles: true }));
    await screen.settled();
    expect(look.hiddenClasses().has(2)).toBe(true);
    expect(look.hiddenClasses().has(5)).toBe(false);
  });

  test('what comes in is named once, however many pieces it has', async () => {
    expect(screen.has('coming-in')).toBe(false);
    job.workbench.update((bench) => ({ ...bench!, comingIn: [cloud({ id: 8, name: 'new.laz' }), cloud({ id: 9, name: 'new.laz' })] })); // prettier-ignore
    await screen.settled();
    expect(screen.texts('[data-testid="coming-in"]')).toEqual(['new.lazcoming in, shown as a sample']);
  });

  test('lead to what the job holds and to its classes', async () => {
    await screen.press(screen.one('edit-classes'));
    await screen.press(screen.one('holdings'));
    expect(open).toHaveBeenCalledTimes(2);
  });
});
