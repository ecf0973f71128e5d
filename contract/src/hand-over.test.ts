import { describe, expect, test } from 'vitest';
import { handOverSchema, itemsFor, NAME_PARTS } from './hand-over.js';
import { crsChoiceSchema, heightsSchema, incomingFileSchema } from './incoming.js';
import { formatsOf, productKindIds, type Recipient } from './products/index.js';

const product = (id: number, kind: (typeof productKindIds)[number]) => ({ id, kind });
const clouds = [{ id: 3 }, { id: 4 }];

describe('what suits whom', () => {
  test('every form that is proposed is one that the product leaves in, and says so itself', () => {
    const products = productKindIds.map((kind, k) => product(k + 1, kind));
    for (const recipient of ['cad', 'gis', 'client'] as Recipient[])
      for (const item of itemsFor(recipient, products, clouds)) {
        if (item.kind !== 'product') continue;
        const format = formatsOf(products[item.id - 1]!).find(({ id }) => id === item.format);
        expect(format?.suits, `${products[item.id - 1]!.kind} as ${item.format}`).toContain(recipient);
      }
  });

  test('points go to those who work with points', () => {
    const kinds = (recipient: Recipient): string[] => itemsFor(recipient, [], clouds).map(({ kind }) => kind);
    expect(kinds('gis')).toEqual(['cloud', 'cloud']);
    expect([kinds('client'), kinds('cad')]).toEqual([[], []]);
  });

  test('a client gets one page with the newest of each, where there is a surface to show', () => {
    const page = itemsFor('client', [product(1, 'surface'), product(9, 'surface'), product(5, 'contours')], clouds).find(({ kind }) => kind === 'view'); // prettier-ignore
    expect(page).toMatchObject({ view: { surfaceId: 9, contoursId: 5, clouds: [3, 4] } });
    expect((page as { view: object }).view).not.toHaveProperty('pictureId');
    expect(itemsFor('client', [product(5, 'contours')], clouds).some(({ kind }) => kind === 'view')).toBe(false);
  });

  test('everything proposed can be sent as it is', () => {
    const products = productKindIds.map((kind, k) => product(k + 1, kind));
    for (const recipient of ['cad', 'gis', 'client'] as Recipient[])
      expect(handOverSchema.safeParse({ items: itemsFor(recipient, products, clouds) }).success).toBe(true);
  });
});

describe('names of the files handed over', () => {
  const pattern = (text: string) => handOverSchema.safeParse({ pattern: text });
  test('hold what is known of a file, and words of one’s own', () => {
    for (const part of NAME_PARTS) expect(pattern(`x {${part}} y`).success).toBe(true);
    expect(handOverSchema.parse({})).toEqual({ items: [], pattern: '{job} - {name}', note: '' });
  });

  test('a part nobody knows is named with those there are', () => {
    expect(pattern('{client} {name}').error!.issues[0]!.message).toBe('A name pattern holds {job}, {name}, {kind}, {date}, {epsg}.'); // prettier-ignore
    expect(pattern('{Job}').success).toBe(false);
    expect(pattern('').error!.issues.map(({ message }) => message)).toContain('The name pattern cannot be empty.');
    expect(pattern('x'.repeat(121)).success).toBe(false);
    expect(pattern('two\nlines').success).toBe(false);
  });
});

describe('a file that is to come in', () => {
  test.each<[unknown, boolean]>([
    [{ uploadId: 'a1b2c3d4', fileName: 'strip 7.las' }, true],
    [{ folderPath: 'flights/strip 7.las' }, true],
    [{ uploadId: '../../etc', fileName: 'x' }, false],
    [{ uploadId: 'short', fileName: 'x' }, false],
    [{ uploadId: 'a1b2c3d4', fileName: '' }, false],
    [{ uploadId: 'a1b2c3d4', fileName: 'two\nlines.las' }, false],
    [{ uploadId: 'a1b2c3d4', fileName: 'x', folderPath: 'y' }, false],
    [{ folderPath: '' }, false],
    [{}, false],
  ])('%j: %s', (given, expected) => expect(incomingFileSchema.safeParse(given).success).toBe(expected));

  test.each<[unknown, boolean]>([
    [{ epsg: 5347 }, true],
    [{ epsg: 0 }, false],
    [{ epsg: 5347.5 }, false],
    [{ definition: '+proj=tmerc +lat_0=-90' }, true],
    [{ definition: 'x' }, false],
    [{ definition: '+proj=tmerc', sevenParameters: [1, 2, 3, 4, 5, 6, 7] }, true],
    [{ definition: '+proj=tmerc', sevenParameters: [1, 2, 3, 4, 5, 6] }, false],
    [{ definition: '+proj=tmerc', sevenParameters: [1, 2, 3, 4, 5, 6, Infinity] }, false],
    [{ epsg: 5347, definition: '+proj=tmerc' }, false],
  ])('its system %j: %s', (given, expected) => expect(crsChoiceSchema.safeParse(given).success).toBe(expected));

  test('elevations are shifted within reason, and not where nothing is said', () => {
    expect(heightsSchema.parse({})).toEqual({ shift: 0 });
    expect(heightsSchema.safeParse({ shift: 10_001 }).success).toBe(false);
    expect(heightsSchema.safeParse({ unit: 'yard' }).success).toBe(false);
  });
});
