import { checkCancelled } from '../../task/index.js';
import type { ByteSource } from '../byte-source.js';
import { FormatError } from '../format-error.js';

const READ_BYTES = 4 * 1024 * 1024;
const LONGEST_LINE = 65_536;

/**
 * The lines of a text file, some thousands at a time, without their ends.
 * @throws FormatError where a line is too long for text
 */
export async function* textLines(
  source: ByteSource,
  signal?: { readonly aborted: boolean },
): AsyncGenerator<readonly string[]> {
  const decoder = new TextDecoder('latin1');
  let rest = '';
  let line = 0;
  for (let at = 0; at < source.size;) {
    checkCancelled(signal);
    const bytes = await source.read(at, Math.min(source.size, at + READ_BYTES));
    if (bytes.length === 0) break;
    at += bytes.length;
    const lines = (rest + decoder.decode(bytes)).split(/\r?\n/);
    rest = at < source.size ? lines.pop()! : '';
    if (rest.length > LONGEST_LINE)
      throw new FormatError('not-this-format', {
        what: `There is a line of more than ${LONGEST_LINE} bytes: this is not a text file of points.`,
        where: `${source.name}, line ${line + lines.length + 1}`,
        fix: 'Choose another file.',
      });
    line += lines.length;
    yield lines;
  }
}
