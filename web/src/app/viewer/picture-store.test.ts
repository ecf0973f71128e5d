// @vitest-environment jsdom
import { TestBed } from '@angular/core/testing';
import type { Product } from '@pampero/contract';
import { beforeEach, describe, expect, test } from 'vitest';
import { JobStore } from '../state/job-store';
import { layerKey, LayerStore } from '../state/layer-store';
import { storesOver, surface, workbench } from '../stores.fixture';
import { PictureStore } from './picture-store';
import { TintStore } from './tint-store';

const picture = (id: number, facts: Record<string, unknown> = {}, seriesId = id): Product =>
  surface(id, {
    kind: 'picture',
    seriesId,
    name: `Picture ${id}`,
    facts: { columns: 10, rows: 10, east: 0, eastPerColumn: 1, eastPerRow: 0, north: 10, northPerColumn: 0, northPerRow: -1, levels: 1, bands: 'colour', hasMask: false, isPaletted: false, fileName: 'a.tif', tilesOf: 0, ...facts }, // prettier-ignore
  } as never);

let pictures: PictureStore;
let layers: LayerStore;
let store: JobStore;
beforeEach(() => {
  storesOver(() => undefined, [JobStore, LayerStore, PictureStore, TintStore]);
  store = TestBed.inject(JobStore);
  layers = TestBed.inject(LayerStore);
  pictures = TestBed.inject(PictureStore);
  store.workbench.set(workbench({ products: [picture(3), picture(4)] }));
});

describe('pictures on the ground', () => {
  test('those that are shown are drawn, in their order; the one that was raised lies on top', () => {
    expect(pictures.drawn().map(({ tilesOf }) => tilesOf)).toEqual([3, 4]);
    pictures.raise(3);
    expect(pictures.drawn().map(({ tilesOf }) => tilesOf)).toEqual([4, 3]);
    layers.setShown(layerKey('picture', 4), false);
    expect(pictures.drawn().map(({ tilesOf }) => tilesOf)).toEqual([3]);
  });

  test('contrast and brightness are told in shares of what is possible', () => {
    pictures.setLook(3, { brightness: 50, contrast: 50, opacity: 0.4 });
    expect(pictures.drawn()[0]).toMatchObject({ brightness: 64, contrast: 2, opacity: 0.4 });
    expect(pictures.drawn()[1]).toMatchObject({ brightness: 0, contrast: 1, opacity: 1 });
  });

  test('one that was moved keeps its look, and shows the tiles of the one it was', () => {
    pictures.setLook(3, { opacity: 0.5 });
    store.workbench.set(workbench({ products: [picture(7, { tilesOf: 3, east: 1 }, 3)] }));
    expect(pictures.drawn()).toMatchObject([{ tilesOf: 3, opacity: 0.5, frame: { east: 1 } }]);
  });

  test('surfaces are coloured by pictures only while one is shown', () => {
    const tints = TestBed.inject(TintStore);
    tints.colourBy('pictures');
    expect(tints.areDraped()).toBe(true);
    for (const id of [3, 4]) layers.setShown(layerKey('picture', id), false);
    expect(tints.areDraped()).toBe(false);
  });
});
