import { guessTextLayout, splitLine } from '../text/index.js';
import { UNUSED } from './number-table.js';

/** The first lines of a text with a record a line, column by column. */
export interface TableLook {
  readonly columns: readonly {
    /** As the file heads it; empty where it does not. */
    readonly heading: string;
    /** What it is taken for, {@link UNUSED} where the heading does not tell. */
    readonly name: string;
    readonly first: readonly string[];
  }[];
}

const LINES_LOOKED_AT = 200;
const LINES_SHOWN = 5;

/**
 * Looks at the beginning of a table of numbers, to be shown before it is read.
 * @param known - what a heading names
 * @returns nothing where no line looks like a record
 */
export function lookAtTable(text: string, known: (heading: string) => string | undefined): TableLook | undefined {
  const lines = text.split(/\r?\n/).slice(0, LINES_LOOKED_AT);
  const layout = guessTextLayout(lines);
  if (!layout) return undefined;
  const { delimiter, skippedLines } = layout;
  const rows = lines
    .slice(skippedLines)
    .filter((line) => line.trim() !== '')
    .slice(0, LINES_SHOWN)
    .map((line) => splitLine(line, delimiter));
  const headings =
    skippedLines > 0 ? splitLine(lines[skippedLines - 1]!.replace(/^[#/%\s]+/, ''), delimiter) : ([] as string[]);
  const count = Math.max(...rows.map(({ length }) => length));
  return {
    columns: Array.from({ length: count }, (_, k) => {
      const heading = (headings[k] ?? '').replace(/^["\s]+|["\s]+$/g, '');
      return {
        heading,
        name: (heading && known(heading.replace(/["\s]+/g, ''))) || UNUSED,
        first: rows.map((row) => row[k] ?? ''),
      };
    }),
  };
}
