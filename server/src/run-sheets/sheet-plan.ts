import { operationById, type GivenPlaces, type IncomingFile, type RunSheet, type SheetStep } from '@pampero/contract';
import { JobError } from '../errors/job-error.js';

/** One thing to do: a step of a sheet, or one of the times it is done. */
export interface PlannedStep {
  /** The step's key, with "#2" and so on from the second time. */
  readonly key: string;
  readonly step: SheetStep;
  /** Which time it is, from 0. */
  readonly turn: number;
  readonly turns: number;
  readonly title: string;
  readonly file?: IncomingFile | undefined;
}

/**
 * Everything a run does, in order: a step that reads files is done once for each file, one with `each` once for each cloud of
 * a place or for each time the step it names was done.
 *
 * @throws JobError where a place is not filled
 */
export function planSheet(sheet: RunSheet, places: GivenPlaces): PlannedStep[] {
  checkPlaces(sheet, places);
  const turnsOf = new Map<string, number>();
  return sheet.steps.flatMap((step) => {
    const turns = turnsIn(step, places, turnsOf);
    turnsOf.set(step.key, turns);
    const title = titleOf(step);
    return Array.from({ length: turns }, (_, turn) => {
      const file = step.kind === 'work' && step.file !== undefined ? fileFor(places, step.file, turn) : undefined;
      return {
        key: keyOfTurn(step.key, turn),
        step,
        turn,
        turns,
        title:
          file && turns > 1 ? `${title}, ${nameOf(file)}` : turns > 1 ? `${title}, ${turn + 1} of ${turns}` : title,
        ...(file && { file }),
      };
    });
  });
}

export function keyOfTurn(key: string, turn: number): string {
  return turn === 0 ? key : `${key}#${turn + 1}`;
}

/** The key of the step that a turn is of. */
export function keyOfStep(key: string): string {
  return key.split('#')[0]!;
}

export function titleOf(step: SheetStep): string {
  if (step.title !== undefined) return step.title;
  if (step.kind === 'work') return operationById(step.operation)?.title ?? step.operation;
  if (step.gate.rule === 'look') return step.gate.question;
  return step.gate.rule === 'nothing-stale'
    ? 'Nothing is stale'
    : `${step.gate.figure} ${wordOf(step.gate.must)} ${step.gate.limit}`;
}

export const wordOf = (must: 'at-most' | 'at-least'): string => (must === 'at-most' ? 'at most' : 'at least');

function turnsIn(step: SheetStep, places: GivenPlaces, turnsOf: ReadonlyMap<string, number>): number {
  if (step.kind === 'gate') return 1;
  const files = step.file === undefined ? undefined : filesOf(places, step.file).length;
  if (step.each === undefined) return files ?? 1;
  const place = places[step.each];
  return place && 'clouds' in place ? place.clouds.length : (turnsOf.get(step.each) ?? 1);
}

/** The file of a turn; one file alone serves every turn. */
function fileFor(places: GivenPlaces, key: string, turn: number): IncomingFile | undefined {
  const files = filesOf(places, key);
  return files.length === 1 ? files[0] : files[turn];
}

function filesOf(places: GivenPlaces, key: string): readonly IncomingFile[] {
  const place = places[key];
  return place && 'files' in place ? place.files : [];
}

export function nameOf(file: IncomingFile): string {
  return 'fileName' in file ? file.fileName : file.folderPath.split('/').at(-1)!;
}

/** Files that were sent for a run, which go when it is over. */
export function allFiles(places: GivenPlaces): readonly IncomingFile[] {
  return Object.values(places).flatMap((place) => ('files' in place ? place.files : []));
}

function checkPlaces(sheet: RunSheet, places: GivenPlaces): void {
  const refuse = (what: string, fix: string): never => {
    throw new JobError('bad-request', { what, where: sheet.name, fix });
  };
  for (const key of Object.keys(places))
    if (!sheet.places.some((place) => place.key === key))
      refuse(
        `The run sheet has no place “${key}”.`,
        `Its places are ${sheet.places.map((p) => p.key).join(', ') || 'none'}.`,
      );
  for (const { key, label, kind, isOptional } of sheet.places) {
    const given = places[key];
    if (!given) {
      if (!isOptional) refuse(`Nothing was given for “${label}”.`, `Give ${wanted[kind]} for the place ${key}.`);
    } else if (!(kind in given || (kind === 'value' && 'value' in given)))
      refuse(`“${label}” takes ${wanted[kind]}.`, `Give ${wanted[kind]} for the place ${key}.`);
  }
}

const wanted = { files: 'one file or more', clouds: 'clouds of the job', value: 'a value' } as const;
