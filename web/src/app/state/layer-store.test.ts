// @vitest-environment jsdom
import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { Product, Workbench } from '@pampero/contract';
import { beforeEach, describe, expect, test } from 'vitest';
import { cloud, storesOver, surface, workbench } from '../stores.fixture';
import { JobStore } from './job-store';
import { layerKey, LayerStore } from './layer-store';

const bench = signal<Workbench>(workbench({}));
const grid = (id: number): Product => surface(id, { kind: 'grid', name: `Grid ${id}` } as never);
let layers: LayerStore;
beforeEach(() => {
  storesOver(() => undefined, [JobStore, LayerStore]);
  TestBed.inject(JobStore).workbench.set(
    workbench({ clouds: [cloud({ id: 1 }), cloud({ id: 2 })], products: [surface(1), grid(2), surface(3)] }),
  );
  layers = TestBed.inject(LayerStore);
  bench.set(workbench({}));
});

describe('layers', () => {
  test('all are shown until one is hidden; a hidden one comes back', () => {
    expect(layers.shownClouds().map(({ id }) => id)).toEqual([1, 2]);
    layers.setShown(layerKey('cloud', 1), false);
    expect(layers.shownClouds().map(({ id }) => id)).toEqual([2]);
    layers.setShown(layerKey('cloud', 1), true);
    expect(layers.shownClouds()).toHaveLength(2);
  });

  test('heights are measured from the last surface that is shown', () => {
    expect(layers.shownSurface()?.id).toBe(3);
    layers.setShown(layerKey('surface', 3), false);
    expect(layers.shownSurface()?.id).toBe(1);
    layers.setShown(layerKey('surface', 1), false);
    expect(layers.shownSurface()).toBeUndefined();
  });

  test('a grid is looked at by itself, and steps back for a surface', () => {
    expect(layers.shownGrid()).toBeUndefined();
    layers.setShown(layerKey('grid', 2), true);
    expect([layers.shownGrid()?.id, layers.showing(), layers.drawnSurface()]).toEqual([2, 'surface', undefined]);
    layers.setShown(layerKey('surface', 1), true);
    expect(layers.shownGrid()).toBeUndefined();
    expect(layers.drawnSurface()?.id).toBe(3);
  });

  test('without a surface, points come back when the grid goes', () => {
    TestBed.inject(JobStore).workbench.set(workbench({ products: [grid(2)] }));
    layers.lookAtGrid(2);
    expect(layers.isReliefDrawn()).toBe(true);
    layers.lookAtGrid(undefined);
    expect([layers.showing(), layers.isReliefDrawn()]).toEqual(['points', false]);
  });
});
