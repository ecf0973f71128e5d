// @vitest-environment jsdom
import { TestBed } from '@angular/core/testing';
import type { Product } from '@pampero/contract';
import { beforeEach, describe, expect, test } from 'vitest';
import { JobStore } from '../../state/job-store';
import { layerKey, LayerStore } from '../../state/layer-store';
import { storesOver, surface, workbench } from '../../stores.fixture';
import { AlternativesComponent } from './alternatives.component';

const design = (id: number, name: string, cut: number, fill: number, more: Partial<Product> = {}): Product =>
  surface(id, {
    name,
    facts: { ...(surface(id).facts as object), design: { cut, fill, area: 100, open: 0 } } as never,
    ...more,
  } as never);

let store: JobStore;
let layers: LayerStore;
beforeEach(() => {
  storesOver(() => undefined, [JobStore, LayerStore]);
  store = TestBed.inject(JobStore);
  layers = TestBed.inject(LayerStore);
});

function shown(...products: Product[]): HTMLElement {
  store.workbench.set(workbench({ products }));
  const fixture = TestBed.createComponent(AlternativesComponent);
  fixture.autoDetectChanges();
  return fixture.nativeElement as HTMLElement;
}
const rows = (page: HTMLElement): string[][] =>
  [...page.querySelectorAll('tbody tr')].map((row) => [...row.querySelectorAll('td')].map((cell) => cell.textContent!.replace(/\s+/g, ' ').trim())); // prettier-ignore

describe('alternatives', () => {
  test('stand side by side with their earth, in the order they were made in; the ground is none of them', () => {
    const page = shown(design(9, 'Steep', 12.4, 5122.8), surface(4), design(7, 'Gentle', 0, 20_662));
    expect(rows(page).map((cells) => cells.slice(1))).toEqual([
      ['Gentle', '0', '20 662', '20 662'],
      ['Steep', '12', '5 123', '5 110'],
    ]);
  });

  test('where there is none there is no table', () => {
    expect(shown(surface(4)).querySelector('table')).toBeNull();
  });

  test('one is hidden and shown by its eye, and shown alone by its name', async () => {
    const page = shown(surface(4), design(7, 'Gentle', 0, 1), design(9, 'Steep', 0, 2));
    const eyes = (): (string | null)[] =>
      [...page.querySelectorAll('[aria-pressed]')].map((eye) => eye.getAttribute('aria-pressed'));
    expect(eyes()).toEqual(['true', 'true']);
    page.querySelector<HTMLButtonElement>('[aria-label="Show Gentle"]')!.click();
    expect(layers.isShown(layerKey('surface', 7))).toBe(false);
    const gentle = [...page.querySelectorAll('button')].find((button) => button.textContent!.trim() === 'Gentle')!;
    gentle.click();
    await TestBed.inject(JobStore);
    expect(layers.isShown(layerKey('surface', 7))).toBe(true);
    expect(layers.isShown(layerKey('surface', 9))).toBe(false);
    expect(layers.isShown(layerKey('surface', 4))).toBe(true);
    expect(layers.showing()).toBe('surface');
  });

  test('a stale one says why, and one whose slopes do not meet the ground says how many', () => {
    const page = shown(
      design(7, 'Gentle', 0, 1, { isStale: true, staleBecause: 'CREST has changed.' } as never),
      surface(8, { name: 'Pad', facts: { ...(surface(8).facts as object), design: { cut: 0, fill: 1, area: 1, open: 12 } } } as never),
    ); // prettier-ignore
    expect(page.querySelector('.stale')?.getAttribute('title')).toBe('CREST has changed.');
    expect(page.textContent).toMatch(/12 slope lines do not meet the ground/);
  });
});
