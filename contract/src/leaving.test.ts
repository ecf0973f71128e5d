import { describe, expect, test } from 'vitest';
import {
  clientViewOptionsSchema,
  formatsOf,
  handOverItemSchema,
  handOverSchema,
  itemsFor,
  NAME_PARTS,
  PRODUCT_KINDS,
  RECIPIENTS,
  REPORT_PARTS,
  REPORT_PART_NAMES,
  reportOptionsSchema,
} from './index.js';

const products = PRODUCT_KINDS.map(({ id: kind }, k) => ({ id: k + 1, kind }));
const faultsOf = (parsed: { error?: { issues: readonly { message: string }[] } | undefined }): string[] =>
  parsed.error?.issues.map(({ message }) => message) ?? [];

describe('what suits a recipient', () => {
  test.each(RECIPIENTS)('for %s every file is one that its product leaves as, and can be asked for', (who) => {
    const items = itemsFor(who, products, [{ id: 9 }]);
    expect(items.length).toBeGreaterThan(2);
    for (const item of items) {
      expect(handOverItemSchema.safeParse(item).success, JSON.stringify(item)).toBe(true);
      if (item.kind !== 'product') continue;
      const product = products.find(({ id }) => id === item.id)!;
      expect(formatsOf(product as never).map(({ id }) => id)).toContain(item.format);
    }
  });

  test('points go to a map office only, the page to a client only', () => {
    const kindsFor = (who: (typeof RECIPIENTS)[number]): Set<string> => new Set(itemsFor(who, products, [{ id: 9 }]).map(({ kind }) => kind)); // prettier-ignore
    expect([...kindsFor('cad')]).toEqual(['product']);
    expect(kindsFor('gis')).toEqual(new Set(['product', 'cloud']));
    expect(kindsFor('client')).toEqual(new Set(['product', 'view']));
  });

  test('the page shows the newest of each kind, and there is none without a surface', () => {
    const surfaces = [{ id: 3, kind: 'surface' }, { id: 8, kind: 'surface' }, { id: 5, kind: 'contours' }] as const; // prettier-ignore
    const page = itemsFor('client', surfaces, [{ id: 1 }, { id: 2 }]).find(({ kind }) => kind === 'view');
    expect(page).toMatchObject({ view: { surfaceId: 8, contoursId: 5, clouds: [1, 2] } });
    expect(page).not.toHaveProperty('view.pictureId');
    expect(itemsFor('client', [{ id: 5, kind: 'contours' }], []).some(({ kind }) => kind === 'view')).toBe(false);
    expect(itemsFor('cad', [], [])).toEqual([]);
  });
});

describe('names of the files of a package', () => {
  const of = (pattern: string): string[] => faultsOf(handOverSchema.safeParse({ items: [], pattern }));

  test('every part that there is may stand in them, in any order', () => {
    expect(of(NAME_PARTS.map((part) => `{${part}}`).join(' '))).toEqual([]);
    expect(of('survey')).toEqual([]);
  });

  test('another is refused with those that there are', () => {
    for (const wrong of ['{unknown}', '{job} {}', '{Job}', '{job }'])
      expect(of(wrong), wrong).toEqual(['A name pattern holds {job}, {name}, {kind}, {date}, {epsg}.']);
    expect(of('')).toEqual(['The name pattern cannot be empty.']);
    expect(of('x'.repeat(121))).toHaveLength(1);
  });
});

describe('a report', () => {
  const png = 'iVBORw0KGgoAAAA=';

  test('has all parts unless told otherwise; each has a name', () => {
    expect(reportOptionsSchema.parse({})).toMatchObject({ format: 'pdf', parts: [...REPORT_PARTS], pictures: [] });
    expect(Object.keys(REPORT_PART_NAMES)).toEqual([...REPORT_PARTS]);
  });

  test('takes PNG and JPEG, and nothing that only says so', () => {
    for (const logo of [png, '/9j/4AAQ']) expect(reportOptionsSchema.safeParse({ logo }).success).toBe(true);
    for (const logo of ['R0lGODlh', `data:image/png;base64,${png}`, `${png}<script>`, '', 'iVBORw0KGgo'])
      expect(faultsOf(reportOptionsSchema.safeParse({ logo })), logo).toEqual(['A picture is a PNG or JPEG.']);
  });

  test('has twelve pictures at most, and words of a length that can be read', () => {
    const pictures = (count: number) => Array.from({ length: count }, () => ({ caption: '', image: png }));
    expect(reportOptionsSchema.safeParse({ pictures: pictures(12) }).success).toBe(true);
    expect(reportOptionsSchema.safeParse({ pictures: pictures(13) }).success).toBe(false);
    expect(reportOptionsSchema.safeParse({ words: 'x'.repeat(20_001) }).success).toBe(false);
    expect(reportOptionsSchema.parse({ words: 'First.\n\n- then\n' }).words).toBe('First.\n\n- then');
  });
});

test('a page for a client needs a surface and a size that can hold it', () => {
  expect(clientViewOptionsSchema.parse({ surfaceId: 3 })).toMatchObject({ megabytes: 20, withLines: true, clouds: [] });
  expect(clientViewOptionsSchema.safeParse({}).success).toBe(false);
  expect(faultsOf(clientViewOptionsSchema.safeParse({ surfaceId: 3, megabytes: 0.2 }))).toEqual(['A page needs 1 MB at least.']); // prettier-ignore
  expect(clientViewOptionsSchema.safeParse({ surfaceId: 3, megabytes: 500 }).success).toBe(false);
});
