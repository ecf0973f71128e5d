import { z } from 'zod';

/**
 * Everything but line breaks and control characters, which mean other things in the files a name goes into, and signs that turn the
 * direction of writing, with which a name can be made to read as another.
 */
const ONE_LINE = /^[^\p{Cc}\u2028\u2029\u202a-\u202e\u2066-\u2069]*$/u;
/** The same, with line breaks and tabs. */
const LINES = /^(?:[^\p{Cc}\u202a-\u202e\u2066-\u2069]|[\t\n\r])*$/u;

/** Something a person types into one line: a name, a code. */
export const lineOfText = (most: number, tooLong = `At most ${most} letters.`) =>
  z.string().trim().max(most, tooLong).regex(ONE_LINE, 'Leave out line breaks and control characters.');

/** ... and into several. */
export const linesOfText = (most: number, tooLong = `At most ${most} letters.`) =>
  z.string().trim().max(most, tooLong).regex(LINES, 'Leave out control characters.');
