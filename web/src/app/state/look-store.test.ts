// @vitest-environment jsdom
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test } from 'vitest';
import { cloud, storesOver, surface, workbench } from '../stores.fixture';
import { JobStore } from './job-store';
import { LayerStore } from './layer-store';
import { LookStore } from './look-store';

let look: LookStore;
let job: JobStore;
beforeEach(() => {
  storesOver(() => undefined, [JobStore, LayerStore, LookStore]);
  job = TestBed.inject(JobStore);
  job.workbench.set(workbench({ clouds: [cloud({ id: 1, classCounts: { '1': 600, '2': 400 } }), cloud({ id: 2 })] }));
  look = TestBed.inject(LookStore);
});
const ids = () => look.modes().map(({ id }) => id);

describe('what points are coloured by', () => {
  test('only what the clouds have something to show for is offered', () => {
    expect(ids()).not.toContain('colour');
    expect(ids()).not.toContain('greenness');
    expect(ids()).not.toContain('confidence');
    expect(ids()).not.toContain('height');
    const coloured = cloud({ id: 3, hasConfidence: true });
    job.workbench.set(
      workbench({
        clouds: [{ ...coloured, columns: { ...coloured.columns, rgb: true, gpsTime: false } }],
        products: [surface(1)],
      }),
    );
    expect(ids()).toEqual(expect.arrayContaining(['colour', 'greenness', 'confidence', 'height', 'difference']));
    expect(ids()).not.toContain('gps-time');
  });

  test('one key goes round all of them and comes back', () => {
    const seen = ids().map(() => {
      look.nextMode();
      return look.mode();
    });
    expect(seen.at(-1)).toBe('class');
    expect(new Set(seen)).toEqual(new Set(ids()));
  });

  test('the ramp spans what all clouds have, until the surveyor sets its ends', () => {
    job.workbench.set(
      workbench({
        clouds: [cloud({ id: 1, intensityRange: [10, 500] }), cloud({ id: 2, intensityRange: [5, 90] })],
      }),
    );
    look.mode.set('intensity');
    expect(look.range()).toEqual([5, 500]);
    look.setRange(20, 10); // not a range: stays
    expect(look.range()).toEqual([5, 500]);
    look.setRange(20, 100);
    expect(look.range()).toEqual([20, 100]);
    look.clearRange();
    expect(look.range()).toEqual([5, 500]);
  });

  test('differences have as much room above as below', () => {
    look.mode.set('difference');
    expect(look.range()).toEqual([-0.5, 0.5]);
    const percentiles = { 1: -0.3, 2: -0.2, 5: -0.1, 95: 0.3, 98: 0.6, 99: 0.7 };
    look.spread.set({ mode: 'difference', low: -1, high: 1, counts: [], percentiles });
    expect(look.range()).toEqual([-0.6, 0.6]);
    // The spread of another mode says nothing of this one.
    look.mode.set('gps-time');
    expect(look.range()).toEqual([0, 1]);
  });

  test('each mode keeps its own ramp', () => {
    look.mode.set('elevation');
    look.setRamp('grey');
    look.mode.set('intensity');
    look.setRamp('dusk');
    look.mode.set('elevation');
    expect(look.ramp()).toBe('grey');
  });
});

describe('what is shown, and so can be selected', () => {
  test('classes with their share of the job; hidden ones are left out of what is visible', () => {
    expect(look.classes().map(({ code, count }) => [code, count])).toEqual([[1, 1600], [2, 400]]); // prettier-ignore
    look.toggleClass(2);
    expect(look.visible()).toEqual({ hiddenClasses: [2], withWithheld: false });
    look.toggleClass(2);
    expect(look.visible().hiddenClasses).toEqual([]);
  });

  test('one class alone, and all of them back', () => {
    look.showOnly(2);
    expect(look.classes().map(({ isShown }) => isShown)).toEqual([false, true]);
    look.showOnly(2);
    expect(look.classes().every(({ isShown }) => isShown)).toBe(true);
  });

  test('a hidden cloud takes no part; focus and box are released together', () => {
    TestBed.inject(LayerStore).setShown('cloud-2', false);
    expect(look.visible().clouds).toEqual([1]);
    look.box.set({ min: [0, 0, 0], max: [1, 1, 1] });
    look.focus.set([]);
    expect(look.isFocused()).toBe(true);
    look.release();
    expect(look.isFocused()).toBe(false);
  });

  test('the surveyor’s own names and colours stand before the standard ones', () => {
    job.workbench.update((b) => ({ ...b!, classes: [{ code: 64, name: 'Fence', colour: '#123456' }] as never }));
    expect([look.className()(64), look.classColour()(64)]).toEqual(['Fence', '#123456']);
    expect(look.className()(2)).toBe('Ground');
    expect(look.classColour()(77)).toMatch(/^#[0-9a-f]{6}$/);
  });
});
