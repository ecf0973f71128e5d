import { expect, test } from 'vitest';
import { z } from 'zod';
import './plain-faults.js';

const said = (schema: z.ZodType, value: unknown): string | undefined =>
  schema.safeParse(value).error?.issues[0]?.message;

test.each([
  [z.string(), undefined, 'This is missing: fill it in.'],
  [z.string(), 5, 'This has to be text.'],
  [z.number(), 'five', 'This has to be a number.'],
  [z.int(), '5', 'This has to be a number.'],
  [z.boolean(), 'yes', 'This has to be true or false.'],
  [z.array(z.number()), {}, 'This has to be a list.'],
  [z.strictObject({}), [], 'This has to be an object of named values.'],
  [z.enum(['tin', 'cloth']), 'net', 'This has to be one of "tin", "cloth".'],
  [z.literal(1), 2, 'This has to be 1.'],
  [z.strictObject({ a: z.number() }), { a: 1, b: 2 }, '“b” is not known here.'],
  [z.strictObject({}), { b: 2, c: 3 }, '“b”, “c” are not known here.'],
  [z.number().min(3), 2, 'At least 3.'],
  [z.number().positive(), 0, 'More than 0.'],
  [z.number().max(3), 4, 'At most 3.'],
  [z.number().lt(3), 3, 'Less than 3.'],
  [z.string().min(3), 'ab', 'At least 3 letters.'],
  [z.string().max(3), 'abcd', 'At most 3 letters.'],
  [z.array(z.number()).min(1), [], 'At least one is needed.'],
  [z.array(z.number()).max(1), [1, 2], 'At most 1 entry.'],
  [z.union([z.number(), z.boolean()]), 'x', 'This is given in none of the ways it may be.'],
  [z.iso.datetime(), 'yesterday', 'This is not written as it has to be.'],
] as const)('%# is told plainly', (schema, value, message) => {
  expect(said(schema, value)).toBe(message);
});

test('words of a schema’s own come first', () => {
  expect(said(z.number({ error: 'Radius: type a number.' }), 'x')).toBe('Radius: type a number.');
  expect(said(z.string().min(1, 'Give the job a name.'), '')).toBe('Give the job a name.');
});
