import { planLength, type FeatureLine } from '@pampero/core/lines';
import { PamperoError } from '@pampero/core/task';
import { readLines } from '../store/line-repository.js';
import { readProduct } from '../store/product-repository.js';

/**
 * The line of a code that something is made along: the one of that key, or the longest.
 * @throws PamperoError `no-lines`
 */
export async function readChosenLine(
  models: Parameters<typeof readLines>[0],
  along: number,
  key: number | undefined,
): Promise<{ readonly code: string; readonly line: FeatureLine }> {
  const { name: code } = await readProduct(models, along, 'lines');
  const lines = await readLines(models, along);
  const line =
    key === undefined
      ? lines.reduce<FeatureLine | undefined>((a, b) => (a && planLength(a) >= planLength(b) ? a : b), undefined)
      : lines.find((one) => one.key === key);
  if (!line)
    throw new PamperoError('no-lines', {
      what: key === undefined ? `${code} has no lines.` : `Line ${key} is not of code ${code}.`,
      fix: 'Choose another code, or another line.',
    });
  return { code, line };
}
