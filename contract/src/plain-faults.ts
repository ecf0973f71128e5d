import { z } from 'zod';

/** What a value has to be, in words. */
const KINDS: Readonly<Record<string, string>> = {
  number: 'a number',
  int: 'a whole number',
  string: 'text',
  boolean: 'true or false',
  array: 'a list',
  tuple: 'a list',
  object: 'an object of named values',
  record: 'an object of named values',
};
const counted = (limit: number | bigint, origin: string): string =>
  `${limit}${origin === 'string' ? ' letters' : origin === 'array' ? (Number(limit) === 1 ? ' entry' : ' entries') : ''}`;

/**
 * What is wrong with a value, in plain English where its schema has no words of its own: people read it under the field of a form, and scripts in an answer.
 * Undefined leaves it to the library.
 */
export function plainFault(issue: z.core.$ZodRawIssue): string | undefined {
  switch (issue.code) {
    case 'invalid_type': {
      if (issue.input === undefined) return 'This is missing: fill it in.';
      const kind = KINDS[issue.expected];
      return kind && `This has to be ${kind}.`;
    }
    case 'invalid_value':
      return issue.values.length === 1
        ? `This has to be ${JSON.stringify(issue.values[0])}.`
        : `This has to be one of ${issue.values.map((value) => JSON.stringify(value)).join(', ')}.`;
    case 'unrecognized_keys':
      return `${issue.keys.map((key) => `“${key}”`).join(', ')} ${issue.keys.length === 1 ? 'is' : 'are'} not known here.`;
    case 'too_small':
      if (issue.origin === 'array' && issue.minimum === 1) return 'At least one is needed.';
      return `${issue.inclusive === false ? 'More than' : 'At least'} ${counted(issue.minimum, issue.origin)}.`;
    case 'too_big':
      return `${issue.inclusive === false ? 'Less than' : 'At most'} ${counted(issue.maximum, issue.origin)}.`;
    case 'invalid_union':
      return 'This is given in none of the ways it may be.';
    case 'invalid_format':
      return 'This is not written as it has to be.';
    default:
      return undefined;
  }
}

z.config({ customError: plainFault });
