// @vitest-environment jsdom
import { TestBed } from '@angular/core/testing';
import type { Product } from '@pampero/contract';
import { beforeEach, describe, expect, test } from 'vitest';
import { JobStore } from '../state/job-store';
import { layerKey, LayerStore } from '../state/layer-store';
import { storesOver, surface, workbench, type PretendServer } from '../stores.fixture';
import { TintStore } from './tint-store';

const grid = (id: number, facts: Record<string, unknown>): Product =>
  surface(id, {
    kind: 'grid',
    name: `Grid ${id}`,
    facts: { lowest: 0, highest: 1, isCount: false, isDifference: false, ...facts },
  } as never);
const ground = (id: number, lowest: number, highest: number): Product =>
  surface(id, { facts: { ...(surface(id).facts as object), lowest, highest } as never });

let server: PretendServer;
let tints: TintStore;
let layers: LayerStore;
let store: JobStore;
const open = (...products: Product[]): void => store.workbench.set(workbench({ products }));
beforeEach(() => {
  ({ server } = storesOver(
    (id) => (id === 'pin' ? { id: 9, kind: 'ramp', name: 'own', body: {} } : undefined),
    [JobStore, LayerStore, TintStore],
  ));
  store = TestBed.inject(JobStore);
  layers = TestBed.inject(LayerStore);
  tints = TestBed.inject(TintStore);
  open(
    ground(1, 20, 30),
    ground(2, 18, 26),
    grid(5, { lowest: -0.4, highest: 0.1, isDifference: true }),
    grid(6, { lowest: 0, highest: 40, isCount: true }),
  );
});

describe('the tint of surfaces', () => {
  test('lies over all that are shown, and follows when one is hidden', () => {
    expect(tints.range()).toEqual([18, 30]);
    layers.setShown(layerKey('surface', 1), false);
    expect(tints.range()).toEqual([18, 26]);
    layers.setShown(layerKey('surface', 2), false);
    expect(tints.range()).toEqual([0, 1]);
  });

  test('by slope goes from level to 45 degrees, in degrees', () => {
    tints.colourBy('slope');
    expect([tints.range(), tints.unit(), tints.ramp()]).toEqual([[0, 45], '°', 'dusk']);
  });

  test('by a grid of differences has colours to either side of nothing', () => {
    tints.colourBy(5);
    expect([tints.range(), tints.isTwoSided(), tints.ramp()]).toEqual([[-0.4, 0.4], true, 'either-side']);
    const [low, high] = [tints.stops()[0]!, tints.stops().at(-1)!];
    expect([low.value, high.value]).toEqual([-0.4, 0.4]);
    expect(tints.drawn().every(({ tint }) => typeof tint.by === 'object' && tint.by.url.includes('/products/5/'))).toBe(
      true,
    );
  });

  test('goes back to elevation when the grid it went by is gone', () => {
    tints.colourBy(5);
    open(ground(1, 20, 30));
    expect(tints.range()).toEqual([20, 30]);
    expect(tints.drawn()[0]!.tint.by).toBe('elevation');
  });

  test('numbers of points have no unit', () => {
    tints.colourBy(6);
    expect([tints.unit(), tints.range()]).toEqual(['', [0, 40]]);
  });

  test('in feet it is told in feet', () => {
    store.workbench.set(
      workbench({
        job: { id: 'job', name: 'Job', unit: 'us-survey-foot', crs: {} } as never,
        products: [ground(1, 60, 90)],
      }),
    );
    expect(tints.unit()).toBe('ftUS');
  });
});

describe('a grid looked at by itself', () => {
  test('takes its own range, and lies flat where its values are no heights', () => {
    layers.lookAtGrid(5);
    expect([tints.range(), tints.ramp()]).toEqual([[-0.4, 0.4], 'either-side']);
    expect(tints.drawn()).toMatchObject([{ productId: 5, isFlat: true, opacity: 1 }]);
    layers.lookAtGrid(undefined);
    expect(tints.drawn().map(({ productId }) => productId)).toEqual([1, 2]);
  });

  test('of elevations stands up', () => {
    open(grid(7, { lowest: 3, highest: 5 }));
    layers.lookAtGrid(7);
    expect(tints.drawn()).toMatchObject([{ productId: 7, isFlat: false, tint: { by: 'elevation', low: 3, high: 5 } }]);
  });
});

describe('stops and bands', () => {
  test('stops that were moved stay in order and stay put when surfaces come', () => {
    tints.useStops([
      { value: 28, colour: '#ffffff' },
      { value: 19, colour: '#000000' },
    ] as never);
    expect(tints.stops().map(({ value }) => value)).toEqual([19, 28]);
    open(ground(3, 0, 100));
    expect(tints.stops().map(({ value }) => value)).toEqual([19, 28]);
    tints.useRamp('dusk');
    expect(tints.stops().at(-1)!.value).toBe(100);
  });

  test('bands colour in steps; the legend shows the same colours', () => {
    const smooth = tints.gradient();
    tints.useBands(4, 18);
    expect(tints.tint()).toMatchObject({ band: 4, base: 18 });
    const banded = tints.gradient();
    expect(banded).not.toBe(smooth);
    const colours = (gradient: string): number => new Set(gradient.match(/#[0-9a-f]{6}/gi)).size;
    expect(colours(banded)).toBeLessThan(colours(smooth));
    expect(colours(banded)).toBeGreaterThanOrEqual(3);
  });

  test('how much a surface hides is kept for each', () => {
    expect(tints.opacity(1)).toBe(1);
    tints.setOpacity(1, 0.4);
    expect(tints.drawn().map(({ productId, opacity }) => [productId, opacity])).toEqual([
      [1, 0.4],
      [2, 1],
    ]);
  });

  test('a ramp of one’s own is kept in the job, and comes back from it', () => {
    tints.keep('Levee');
    expect(server.made('pin')[0]!.given.body).toMatchObject({ kind: 'ramp', name: 'Levee', stops: [...tints.stops()] });
    store.workbench.set(
      workbench({
        pins: [{ id: 4, kind: 'ramp', name: 'Levee', body: { stops: [{ value: 1, colour: '#123456' }] } }] as never,
      }),
    );
    expect(tints.own()).toEqual([{ id: 4, name: 'Levee', stops: [{ value: 1, colour: '#123456' }] }]);
  });

  test('a design is drawn over the ground in a colour of its own, half seen through, whichever is newer', () => {
    const design = (id: number): Product =>
      surface(id, { facts: { ...(surface(id).facts as object), lowest: 22, highest: 24, design: { cut: 0, fill: 1, area: 1, open: 0 } } as never }); // prettier-ignore
    open(design(3), ground(4, 20, 30), design(5));
    expect(tints.drawn().map(({ productId, opacity }) => [productId, opacity])).toEqual([[4, 1], [3, 0.75], [5, 0.75]]); // prettier-ignore
    const [land, first, second] = tints.drawn().map(({ tint }) => new Set(tint.table));
    expect(land!.size).toBeGreaterThan(100);
    expect([first!.size, second!.size]).toEqual([1, 1]);
    expect([...first!][0]).not.toBe([...second!][0]);
    tints.setOpacity(3, 1);
    expect(tints.drawn()[1]!.opacity).toBe(1);
  });
});
