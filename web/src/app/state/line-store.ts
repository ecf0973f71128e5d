import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import type { ProductOf, PutLineRequest } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import {
  CORNER_SOURCES,
  LineIndex,
  unpackLines,
  type FeatureCode,
  type FeatureLine,
  type LineShape,
} from '@pampero/core/lines';
import { firstValueFrom } from 'rxjs';
import { ApiClient } from '../api/api-client';
import { JobStore } from './job-store';
import { layerOf, LayerStore } from './layer-store';

/** The lines of a code, as the page has them. */
export interface LineSet {
  readonly product: ProductOf<'lines'>;
  readonly lines: readonly FeatureLine[];
}

/** A line with the code it is of. */
export interface CodedLine extends FeatureLine {
  readonly code: string;
}

/** The lines of the job: fetched once, then only what came and went; what is shown of them can be asked what lies near. */
@Injectable()
export class LineStore {
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);
  private readonly api = inject(ApiClient);

  readonly sets = signal<ReadonlyMap<number, LineSet>>(new Map());
  readonly codes = computed<readonly FeatureCode[]>(() => this.store.workbench()?.codes ?? []);
  readonly codeOf = computed(() => {
    const known = new Map(this.codes().map((code) => [code.code, code]));
    return (code: string): FeatureCode | undefined => known.get(code);
  });
  readonly shown = computed<readonly LineSet[]>(() =>
    [...this.sets().values()].filter(({ product }) => this.layers.isShown(layerOf(product))),
  );
  readonly shownLines = computed<readonly CodedLine[]>(() =>
    this.shown().flatMap(({ product, lines }) => lines.map((line) => ({ ...line, code: product.facts.code }))),
  );
  /** Asked only while somebody draws: then it is made anew when the lines change. */
  readonly index = computed(() => new LineIndex(this.shownLines()));
  readonly byKey = computed(() => new Map(this.shownLines().map((line) => [line.key, line])));

  constructor() {
    let asked = Promise.resolve();
    effect(() => {
      const products = this.store.lines();
      // One after the other, so that each begins from what the last one brought.
      untracked(() => (asked = asked.then(() => this.load(products)).catch(() => undefined)));
    });
  }

  private async load(products: readonly ProductOf<'lines'>[]): Promise<void> {
    const before = this.sets();
    const next = new Map<number, LineSet>();
    let isSame = products.length === before.size;
    for (const product of products) {
      const known = before.get(product.seriesId);
      if (known?.product.id === product.id) {
        next.set(product.seriesId, known);
        continue;
      }
      isSame = false;
      const lines = await this.read(product, known);
      if (lines) next.set(product.seriesId, { product, lines });
      else if (known) next.set(product.seriesId, known);
    }
    if (!isSame) this.sets.set(next);
  }

  /** What differs from an earlier version where there is one; undone versions are older than what is known, and read whole. */
  private async read(product: ProductOf<'lines'>, known: LineSet | undefined): Promise<FeatureLine[] | undefined> {
    const params = { jobId: this.store.jobId(), productId: product.id };
    const since = known && known.product.id < product.id ? known.product.id : undefined;
    const bytes = await firstValueFrom(
      this.api.call('showProduct', { params, ...(since !== undefined && { query: { since } }) }),
    ).catch(() => undefined);
    if (!bytes) return undefined;
    if (since === undefined) return unpackLines(new Uint8Array(bytes));
    const { arrays } = unpackArrays(new Uint8Array(bytes));
    const came = unpackLines(arrays['came'] as Uint8Array);
    const gone = new Set<number>([...(arrays['gone'] as Uint32Array), ...came.map(({ key }) => key)]);
    return [...known!.lines.filter(({ key }) => !gone.has(key)), ...came].sort((a, b) => a.key - b.key);
  }

  /** Stores lines, or other shapes of them; what was done is said in the field book. */
  put(
    lines: readonly { readonly code: string; readonly shape: LineShape; readonly key?: number | undefined }[],
    remove: readonly number[],
    what: string,
  ): void {
    const put = lines.map(({ code, shape, key }): PutLineRequest => ({
      code,
      ...(key !== undefined && { key }),
      isClosed: shape.isClosed,
      easting: [...shape.easting],
      northing: [...shape.northing],
      elevation: Array.from(shape.elevation, (z) => (Number.isNaN(z) ? null : z)),
      source: Array.from(shape.source, (source) => CORNER_SOURCES[source] ?? 'typed'),
    }));
    this.store.start('draw-lines', { put, remove: [...remove], what }, ({ problem }) => this.store.say(problem.detail));
  }

  /** A code whose eye is closed would take in lines unseen. */
  show(code: string): void {
    const set = [...this.sets().values()].find(({ product }) => product.facts.code === code);
    if (set) this.layers.setShown(layerOf(set.product), true);
  }
}
