import { describe, expect, test } from 'vitest';
import { z } from 'zod';
import {
  asSelection,
  endpoints,
  operations,
  openApiDocument,
  pointExportSchema,
  POINT_FILE_FORMATS,
  POINT_FILES,
  selectionSchema,
  type Endpoint,
} from './index.js';
import { classCodeSchema, jobClassSchema } from './classes.js';
import { crsChoiceSchema, heightsSchema, incomingFileSchema } from './incoming.js';
import { newPinSchema } from './pins.js';
import { jobIdSchema, newJobSchema } from './resources/job.js';
import { lineOfText, linesOfText } from './text.js';
import { textLayoutSchema } from './text-layout.js';

const ok = (schema: z.ZodType, given: unknown): boolean => schema.safeParse(given).success;
const messages = (schema: z.ZodType, given: unknown): string[] => {
  const parsed = schema.safeParse(given);
  return parsed.success ? [] : parsed.error.issues.map(({ message }) => message);
};

describe('what a person types', () => {
  test('a line takes every letter there is, and no break or control character', () => {
    const line = lineOfText(20);
    for (const text of ['Río Negro', '日本の堤防', '😀', 'a\u00a0b', '"quoted"', '=1+1', '<b>'])
      expect(ok(line, text), text).toBe(true);
    for (const text of ['a\nb', 'a\r', 'a\u0000', 'a\u0085b', 'a\u2028b', 'tab\there', '\u001b[31m'])
      expect(ok(line, `x${text}x`), JSON.stringify(text)).toBe(false);
    expect(messages(line, 'a\nb')).toEqual(['Leave out line breaks and control characters.']);
    expect(messages(line, 'x'.repeat(21))).toEqual(['At most 20 letters.']);
    expect(line.parse('  about  ')).toBe('about');
  });

  test('a note may have several lines, and no other control character', () => {
    const lines = linesOfText(40);
    expect(ok(lines, 'first\nsecond\tthird\r\n')).toBe(true);
    expect(ok(lines, 'bell \u0007 here')).toBe(false);
  });

  test('a job may be a square of a larger site: its land the right way round, its margin half a side at most', () => {
    const land = { west: 5000, south: 6000, east: 5100, north: 6100 };
    const told = (square: object): string[] => messages(newJobSchema, { name: 'Bank', square });
    expect(told({ land, side: 100, margin: 50 })).toEqual([]);
    expect(told({ land: { ...land, east: 4900 }, side: 100, margin: 10 })).toEqual(['East lies beyond west, and north beyond south.']); // prettier-ignore
    expect(told({ land, side: 100, margin: 51 })).toEqual(['The margin is at most half the side.']);
    expect(told({ land, side: 0, margin: 0 })).toEqual(['The side of a square is longer than 0.']);
    expect(told({ land: { ...land, west: 'here' }, side: 100, margin: 0 })).toEqual(['Give a coordinate in the job’s units.']); // prettier-ignore
  });

  test('a job, a class, a pin, a file and a definition are such text', () => {
    expect(messages(newJobSchema, { name: ' ' })).toEqual(['Give the job a name.']);
    expect(ok(newJobSchema, { name: 'a\u0000b' })).toBe(false);
    expect(newJobSchema.parse({ name: 'Bank' })).toEqual({ name: 'Bank' });
    expect(ok(newJobSchema, { name: 'Bank', epsg: -3 })).toBe(false);
    expect(ok(newJobSchema, { name: 'Bank', more: 1 })).toBe(false);
    expect(ok(jobClassSchema, { code: 70, name: 'Reed\nbed', colour: '#aabbcc' })).toBe(false);
    expect(ok(newPinSchema, { kind: 'note', name: 'two\nlines', place: [1, 2, 3] })).toBe(true);
    expect(ok(newPinSchema, { kind: 'note', name: 'a\u0000', place: [1, 2, 3] })).toBe(false);
    expect(ok(incomingFileSchema, { folderPath: 'flights/a.las' })).toBe(true);
    expect(ok(incomingFileSchema, { folderPath: 'a\u0000.las' })).toBe(false);
    expect(ok(incomingFileSchema, { uploadId: '../../etc', fileName: 'a.las' })).toBe(false);
    expect(ok(crsChoiceSchema, { definition: `+proj=${'x'.repeat(2100)}` })).toBe(false);
  });
});

describe('ids of jobs', () => {
  test('are made of what every file system takes, and lead nowhere', () => {
    for (const id of ['flood-bank-b25b', '7', 'a'.repeat(80)]) expect(ok(jobIdSchema, id), id).toBe(true);
    for (const id of ['', '-a', '../x', 'UPPER', 'a/b', 'a.b', 'a b', 'a'.repeat(81), 'ñandu', 'a\n'])
      expect(ok(jobIdSchema, id), id).toBe(false);
  });
});

describe('class codes', () => {
  test('are those of the standard and the room it leaves to users (LAS 1.4 R15, table 17)', () => {
    for (const code of [0, 2, 9, 17, 22, 64, 255]) expect(ok(classCodeSchema, code), String(code)).toBe(true);
    for (const code of [23, 40, 63])
      expect(messages(classCodeSchema, code)[0], String(code)).toMatch(/reserved by the standard/);
    for (const code of [-1, 256, 2.5, 'two']) expect(ok(classCodeSchema, code), String(code)).toBe(false);
    expect(classCodeSchema.parse('6')).toBe(6);
  });

  test('a class of one’s own has a colour of six digits and a key of one letter', () => {
    const given = { code: 64, name: 'Reed', colour: '#A0b1C2' };
    expect(ok(jobClassSchema, given)).toBe(true);
    expect(ok(jobClassSchema, { ...given, key: 'r' })).toBe(true);
    for (const wrong of [{ key: 'rr' }, { key: '' }, { colour: 'red' }, { colour: '#fff' }, { name: '' }, { code: 30 }])
      expect(ok(jobClassSchema, { ...given, ...wrong }), JSON.stringify(wrong)).toBe(false);
  });
});

describe('points that leave', () => {
  test('every format has an ending and a type of its own, and is asked for by its name', () => {
    expect(Object.keys(POINT_FILES).sort()).toEqual([...POINT_FILE_FORMATS].sort());
    const endings = Object.values(POINT_FILES).map(({ ending }) => ending);
    expect(new Set(endings).size).toBe(endings.length);
    for (const { ending, mediaType } of Object.values(POINT_FILES)) {
      expect(ending).toMatch(/^\.[a-z0-9.]+$/);
      expect(mediaType).toMatch(/^[a-z]+\/[a-z0-9.+-]+$/);
    }
  });

  test('without a word it is LAS 1.4 with everything; lists come with commas', () => {
    expect(pointExportSchema.parse({})).toEqual({ format: 'las', version: '1.4', withheld: 'kept' });
    expect(
      pointExportSchema.parse({ format: 'csv', classes: '2,9', columns: 'easting,northing,elevation' }),
    ).toMatchObject({
      classes: [2, 9],
      columns: ['easting', 'northing', 'elevation'],
    });
    expect(pointExportSchema.parse({ spacing: '0.5' }).spacing).toBe(0.5);
  });

  test('what cannot be meant is refused: columns for LAS, one column fifteen hundred times, classes beyond 255', () => {
    expect(messages(pointExportSchema, { format: 'las', columns: 'easting' })[0]).toMatch(
      /Columns are chosen for XYZ and CSV/,
    );
    expect(
      messages(pointExportSchema, {
        format: 'csv',
        columns: Array.from({ length: 1500 }, () => 'easting').join(','),
      })[0],
    ).toMatch(/Each column is given once/);
    expect(ok(pointExportSchema, { format: 'csv', columns: 'easting,nonsense' })).toBe(false);
    expect(messages(pointExportSchema, { classes: '2,x' })[0]).toMatch(/commas between them/);
    expect(ok(pointExportSchema, { classes: '256' })).toBe(false);
    for (const spacing of ['0', '-1', 'NaN', '1e9']) expect(ok(pointExportSchema, { spacing }), spacing).toBe(false);
    expect(ok(pointExportSchema, { format: 'exe' })).toBe(false);
  });
});

describe('selections as they travel', () => {
  const visible = { hiddenClasses: [], withWithheld: false };
  const step = (shape: unknown, more = {}): unknown => ({ how: 'add', shape, visible, ...more });

  test('bits arrive as they were sent', () => {
    const bits = Uint8Array.of(0b1010_0101, 255, 0);
    const parsed = selectionSchema.parse([
      step({ kind: 'points', nodes: [{ nodeId: 3, bits: Buffer.from(bits).toString('base64') }] }),
    ]);
    const [first] = asSelection(parsed);
    expect(first!.shape).toEqual({ kind: 'points', nodes: [{ nodeId: 3, bits }] });
    expect(ok(selectionSchema, [step({ kind: 'points', nodes: [{ nodeId: 3, bits: '***' }] })])).toBe(false);
  });

  test('each shape is taken with what it needs and with nothing else', () => {
    const view = { matrix: Array.from({ length: 16 }, (_, k) => k), origin: [0, 0, 0], width: 100, height: 80 };
    const shapes = [
      {
        kind: 'outline',
        view,
        corners: [
          [0, 0],
          [1, 0],
          [1, 1],
        ],
      },
      {
        kind: 'stroke',
        view,
        path: [
          [0, 0],
          [5, 5],
        ],
        radius: 4,
      },
      {
        kind: 'boundary',
        corners: [
          [0, 0],
          [1, 0],
          [1, 1],
        ],
        buffer: 2,
      },
      { kind: 'range', attribute: 'elevation', from: 1 },
      { kind: 'returns', which: ['single'] },
      { kind: 'classes', classes: [2, 9] },
      { kind: 'all' },
    ];
    for (const shape of shapes) {
      expect(ok(selectionSchema, [step(shape)]), shape.kind).toBe(true);
      expect(ok(selectionSchema, [step({ ...shape, more: 1 })]), shape.kind).toBe(false);
    }
    expect(ok(selectionSchema, [step({ kind: 'outline', view: { ...view, matrix: [1] }, corners: [] })])).toBe(false);
    expect(ok(selectionSchema, [step({ kind: 'outline', view: { ...view, width: 1e6 }, corners: [] })])).toBe(false);
    expect(ok(selectionSchema, [step({ kind: 'range', attribute: 'colour of the sky' })])).toBe(false);
  });

  test('numbers without end are bounded: steps, corners, and what is not a number', () => {
    expect(
      ok(
        selectionSchema,
        Array.from({ length: 501 }, () => step({ kind: 'all' })),
      ),
    ).toBe(false);
    expect(
      ok(selectionSchema, [
        step({ kind: 'boundary', corners: Array.from({ length: 20_001 }, () => [0, 0]), buffer: 0 }),
      ]),
    ).toBe(false);
    for (const buffer of [NaN, Infinity, '1', null])
      expect(ok(selectionSchema, [step({ kind: 'boundary', corners: [], buffer })]), String(buffer)).toBe(false);
  });

  test('a focus is a selection within it', () => {
    const focus = [step({ kind: 'classes', classes: [2] })];
    expect(ok(selectionSchema, [step({ kind: 'all' }, { visible: { ...visible, focus } })])).toBe(true);
    expect(ok(selectionSchema, [step({ kind: 'all' }, { visible: { ...visible, focus: [{}] } })])).toBe(false);
  });
});

describe('files that come in', () => {
  test('heights: a shift of a valley at most, in the job’s unit', () => {
    expect(heightsSchema.parse({})).toEqual({ shift: 0 });
    for (const shift of [20_000, NaN, '5']) expect(ok(heightsSchema, { shift })).toBe(false);
    expect(ok(heightsSchema, { unit: 'cubit' })).toBe(false);
  });

  test('a system is a code or a definition, with seven parameters or none', () => {
    expect(ok(crsChoiceSchema, { epsg: 5347 })).toBe(true);
    expect(ok(crsChoiceSchema, { definition: '+proj=tmerc +lon_0=-60', sevenParameters: [1, 2, 3, 0, 0, 0, 1] })).toBe(
      true,
    );
    for (const given of [
      {},
      { epsg: 0 },
      { epsg: 5347, definition: '+proj=tmerc' },
      { definition: '+p' },
      { definition: '+proj=tmerc', sevenParameters: [1, 2, 3] },
    ])
      expect(ok(crsChoiceSchema, given), JSON.stringify(given)).toBe(false);
  });

  test('a layout has three columns at least, sixty-four at most, and one of the delimiters that files have', () => {
    const layout = {
      delimiter: ',',
      hasDecimalComma: false,
      skippedLines: 0,
      columns: ['easting', 'northing', 'elevation'],
    };
    expect(ok(textLayoutSchema, layout)).toBe(true);
    for (const wrong of [
      { delimiter: '|||' },
      { delimiter: '.*' },
      { columns: ['easting'] },
      { columns: Array.from({ length: 65 }, () => 'easting') },
      { skippedLines: -1 },
      { skippedLines: 1e9 },
    ])
      expect(ok(textLayoutSchema, { ...layout, ...wrong }), JSON.stringify(wrong).slice(0, 40)).toBe(false);
  });
});

describe('the API as a whole', () => {
  const all = Object.entries(endpoints) as [string, Endpoint][];

  test('no two calls share a method and a path, whatever their parameters are called', () => {
    const places = all.map(([, { method, path }]) => `${method} ${path.replace(/\{\w+\}/g, '{}')}`);
    expect(places.filter((place, k) => places.indexOf(place) !== k)).toEqual([]);
  });

  test.each(all)(
    '%s says what it does, and takes just the parameters of its path',
    (_id, { path, params, summary, method, status, body, bodyType, response, responseType }) => {
      const named = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => name);
      expect(Object.keys(params?.shape ?? {}).sort()).toEqual(named.sort());
      expect(summary).toMatch(/^[A-Z].*\.$/s);
      if (method === 'get' || method === 'delete') expect([body, bodyType]).toEqual([undefined, undefined]);
      // What is answered: JSON by a schema, a file by its type, or nothing.
      expect([response !== undefined, responseType !== undefined, status === 204].filter(Boolean)).toHaveLength(1);
    },
  );

  test.each(all.filter(([, { path }]) => path.includes('{jobId}')))(
    '%s refuses an id of a job that leads elsewhere',
    (_id, { params }) => {
      const given = Object.fromEntries(
        Object.keys(params!.shape).map((name) => [
          name,
          name === 'jobId' ? '../x' : name === 'operation' ? operations[0]!.id : '1',
        ]),
      );
      expect(params!.safeParse(given).success).toBe(false);
    },
  );

  test('the document lists every call once, with an answer for when it goes wrong', () => {
    const { paths } = openApiDocument() as {
      paths: Record<string, Record<string, { operationId: string; responses: Record<string, unknown> }>>;
    };
    const calls = Object.values(paths).flatMap((methods) => Object.values(methods));
    expect(calls.map(({ operationId }) => operationId).sort()).toEqual(all.map(([id]) => id).sort());
    for (const { operationId, responses } of calls)
      expect(
        Object.keys(responses).some((status) => status === 'default' || status.startsWith('4')),
        operationId,
      ).toBe(true);
  });
});
