import type { OperationDescription } from '@pampero/contract';
import type { LengthUnit } from '@pampero/core/geodesy';
import { JobError } from '../errors/job-error.js';

/** Names beside the parameters that the field book keeps with them, and that come back when a step is done again. */
const KEPT_BESIDE = new Set(['fileName']);

/**
 * A setting under a name that the operation does not have would be left out in silence, and the default used in its place.
 * @throws JobError `bad-request` that says which it was, which was likely meant, and which there are
 */
export function refuseUnknownNames(
  description: OperationDescription,
  given: Readonly<Record<string, unknown>>,
  unit: LengthUnit,
): void {
  const names = Object.keys(description.parameters(unit).shape);
  const known = new Set(names);
  const unknown = Object.keys(given).find((name) => !known.has(name) && !KEPT_BESIDE.has(name));
  if (unknown === undefined) return;
  const near = names.find((name) => isNear(name, unknown));
  throw new JobError('bad-request', {
    what: `${description.title} has no setting called ${unknown.slice(0, 60)}.`,
    fix: near === undefined ? `Its settings are ${names.join(', ')}.` : `Did you mean ${near}?`,
  });
}

/** One is in the other, or they differ by a letter or two: a slip of the keyboard, or the name in another case. */
function isNear(name: string, given: string): boolean {
  const [a, b] = [name.toLowerCase(), given.toLowerCase().replaceAll(/[_-]/g, '')];
  return a === b || (b.length > 3 && (a.includes(b) || b.includes(a))) || editDistance(a, b) <= 2;
}

/** Letters to add, drop or change (Levenshtein 1966), by rows. */
function editDistance(a: string, b: string): number {
  let row = Array.from({ length: b.length + 1 }, (_, j) => j);
  for (let i = 1; i <= a.length; i++) {
    const next = [i];
    for (let j = 1; j <= b.length; j++)
      next.push(Math.min(row[j]! + 1, next[j - 1]! + 1, row[j - 1]! + (a[i - 1] === b[j - 1] ? 0 : 1)));
    row = next;
  }
  return row[b.length]!;
}
