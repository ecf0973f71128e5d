import { isAreaRole, type FeatureCode, type LineRole, type LineShape } from '@pampero/core/lines';
import { PamperoError } from '@pampero/core/task';
import { newCode, readCodes, replaceCodes } from '../../store/code-repository.js';
import type { Effect } from '../../store/effects.js';
import { changeLines, findLines, type LineChange, type PutLine } from '../../store/line-repository.js';
import type { Models } from '../../store/models.js';

/** A line that an operation makes, or another shape or code of one there is. */
export interface MadeLine {
  readonly code: string;
  readonly shape: LineShape;
  readonly key?: number | undefined;
}

/** What becomes of the lines of the job, worked out before anything is stored. */
export interface MadeLines {
  readonly shapes: readonly LineShape[];
  readonly changes: readonly LineChange[];
  /** The code list with what is new in it; undefined where nothing is. */
  readonly codes: readonly FeatureCode[] | undefined;
}

/**
 * Sorts lines by their codes. A code that the list does not have is put on it.
 * @param roleOfNew - what lines of such a code are
 * @throws PamperoError `no-level` for water without an elevation, `not-found` for a key that is none
 */
export async function sortMadeLines(
  models: Models,
  { lines, remove = [], roleOfNew = 'breakline' }: { lines: readonly MadeLine[]; remove?: readonly number[]; roleOfNew?: LineRole }, // prettier-ignore
): Promise<MadeLines> {
  const codes = [...(await readCodes(models))];
  const before = codes.length;
  const keys = [...remove, ...lines.flatMap(({ key }) => (key === undefined ? [] : [key]))];
  const found = await findLines(models, keys);
  const inUse = new Map([...found.values()].map(({ product: { facts } }) => [facts.code, facts.role]));
  const roleOf = (code: string): LineRole => {
    const role = codes.find((known) => known.code === code)?.role ?? inUse.get(code);
    if (role !== undefined) return role;
    codes.push(newCode(code, roleOfNew, codes));
    return roleOfNew;
  };
  const byCode = new Map<string, { role: LineRole; put: PutLine[]; remove: number[] }>();
  const of = (code: string): { put: PutLine[]; remove: number[] } => {
    let change = byCode.get(code);
    if (!change) byCode.set(code, (change = { role: roleOf(code), put: [], remove: [] }));
    return change;
  };
  const shapes = lines.map(({ code, shape: given, key }) => {
    const shape = fitForRole(given, roleOf(code));
    of(code).put.push({ shape, key });
    // One that has another code now leaves the lines of its old one.
    const old = key === undefined ? undefined : found.get(key)!.product.facts.code;
    if (old !== undefined && old !== code) of(old).remove.push(key!);
    return shape;
  });
  for (const key of remove) of(found.get(key)!.product.facts.code).remove.push(key);
  return {
    shapes,
    changes: [...byCode].map(([code, change]) => ({ code, ...change })),
    codes: codes.length > before ? codes : undefined,
  };
}

export async function storeMadeLines(
  models: Models,
  historyId: number,
  operation: string,
  { changes, codes }: MadeLines,
): Promise<{ effects: readonly Effect[]; productId?: number }> {
  const stored = await changeLines(models, historyId, operation, changes);
  return codes ? { ...stored, effects: [...stored.effects, await replaceCodes(models, codes)] } : stored;
}

/** A line as its code wants it: outlines close, and water has a level. */
function fitForRole(shape: LineShape, role: LineRole): LineShape {
  if ((role === 'water' || role === 'river') && shape.elevation.every(Number.isNaN))
    throw new PamperoError('no-level', {
      what: 'A water outline has no elevation, so its level is unknown.',
      fix: 'Give a level, or an outline with elevations.',
    });
  return isAreaRole(role) && !shape.isClosed && shape.easting.length > 2 ? { ...shape, isClosed: true } : shape;
}
