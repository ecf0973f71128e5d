import { describe, expect, test } from 'vitest';
import { z } from 'zod';
import {
  describeProduct,
  formatsOf,
  isKind,
  kindById,
  PRODUCT_KINDS,
  productKindIds,
  productSchema,
  type Product,
  type ProductKind,
} from './index.js';

describe.each(PRODUCT_KINDS.map((kind) => [kind.id, kind as unknown as ProductKind] as const))('%s', (id, kind) => {
  test('has names, and at least one form in which it leaves', () => {
    expect(kind.name.one).toMatch(/^[A-Z]/);
    expect(kind.name.many).toMatch(/^[A-Z]/);
    expect(kind.formats.length).toBeGreaterThan(0);
  });

  test('its formats differ by id and by ending, and say what they are', () => {
    const of = (pick: 'id' | 'ending' | 'label') => kind.formats.map((format) => format[pick]);
    for (const pick of ['id', 'ending', 'label'] as const) expect(new Set(of(pick)).size).toBe(kind.formats.length);
    for (const { ending, mediaType } of kind.formats) {
      expect(ending).toMatch(/^[-A-Za-z]*\.[a-z0-9.]+$/);
      // RFC 6838: type and subtype.
      expect(mediaType).toMatch(/^(application|text|image|model)\/[a-z0-9.+-]+$/);
    }
  });

  test('its facts are typed: nothing passes that is not named', () => {
    const parsed = kind.facts.safeParse({ whatever: 1 });
    expect(parsed.success).toBe(false);
    expect(JSON.stringify(parsed.error!.issues)).toMatch(/unrecognized_keys|whatever/);
    expect(() => z.toJSONSchema(kind.facts)).not.toThrow();
  });

  test('is found by its id, and among products of all kinds', () => {
    expect(kindById(id)?.id).toBe(id);
    expect(productKindIds).toContain(id);
    const products = productKindIds.map((other) => ({ kind: other }) as Product);
    expect(products.filter(isKind(id)).map((product) => product.kind)).toEqual([id]);
  });
});

describe('products', () => {
  const common = {
    id: 1,
    seriesId: 1,
    name: 'Heap 3',
    operation: 'measure-volume',
    parameters: {},
    madeAt: '2026-03-04T05:06:07.000Z',
    inputs: [{ kind: 'product', id: 2, revision: '7' }],
    isStale: false,
  };
  const facts = { cut: 1, fill: 2, cutArea: 3, fillArea: 4, uncovered: 0, outlineOff: 0, figures: [] };

  test('are told apart by their kind: facts of another kind do not pass', () => {
    expect(productSchema.safeParse({ ...common, kind: 'volume', facts }).success).toBe(true);
    expect(productSchema.safeParse({ ...common, kind: 'surface', facts }).success).toBe(false);
    expect(productSchema.safeParse({ ...common, kind: 'heap', facts }).success).toBe(false);
  });

  test('no input of an unknown kind, no field that nobody knows', () => {
    const inputs = [{ kind: 'rumour', id: 2, revision: '7' }];
    expect(productSchema.safeParse({ ...common, kind: 'volume', facts, inputs }).success).toBe(false);
    expect(productSchema.safeParse({ ...common, kind: 'volume', facts, colour: 'red' }).success).toBe(false);
  });

  test('a kind that is not known here has no formats and nothing to say', () => {
    expect(formatsOf({ kind: 'heap' as never })).toEqual([]);
    expect(describeProduct({ kind: 'heap' as never, facts: {} as never }, 'metre')).toBe('');
    expect(kindById('heap')).toBeUndefined();
  });
});
