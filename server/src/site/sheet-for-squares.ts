import { operationById, type RunSheet, type WorkStep } from '@pampero/contract';
import { JobError } from '../errors/job-error.js';
import { titleOf } from '../run-sheets/sheet-plan.js';

/** At this gate a square waits until its neighbours have their classes; then its margin takes them. */
export const SQUARES_GATE = 'squares-ready';
export const MARGIN_STEP = 'margin-classes';

/** Stages whose steps decide what the points are. */
const DECIDES = ['clean', 'classify'];
/** Steps of these stages make what leaves, and what they make has to meet at the edges. */
const MAKES = ['lines', 'terrain', 'deliver'];
/** Steps of Align that leave points where they are. */
const MOVES_NOTHING = ['compare-strips', 'find-strips', 'set-strips', 'flag-overlap', 'import-trajectory'];

/** The place of a sheet that clouds come in by. @throws JobError where there is none, or several */
export function cloudPlaceOf(sheet: RunSheet): string {
  const places = new Set(importsOf(sheet).map(({ file }) => file!));
  const [place] = places;
  if (place === undefined || places.size > 1)
    throw new JobError('bad-request', {
      what: `The run sheet has ${places.size === 0 ? 'no place' : 'several places'} for clouds.`,
      where: sheet.name,
      fix: 'A site takes a sheet with one step that imports clouds.',
    });
  return place;
}

/**
 * A run sheet as it is run on each square of a site: once all points have their classes, those of the margin take the classes of the
 * square that they belong to, and only then is anything built from them.
 * @throws JobError for a sheet whose products could not meet at the edges
 */
export function sheetForSquares(sheet: RunSheet): RunSheet {
  cloudPlaceOf(sheet);
  const stages = sheet.steps.map((step) =>
    step.kind === 'work' && !step.isOff ? operationById(step.operation)?.stage : undefined,
  );
  sheet.steps.forEach((step, k) => {
    if (stages[k] === 'align' && step.kind === 'work' && !MOVES_NOTHING.includes(step.operation))
      throw new JobError('bad-request', {
        what: `The step “${titleOf(step)}” moves points, and would move those of a margin otherwise than their own square does.`,
        where: sheet.name,
        fix: 'Align the strips first, and give the aligned files to the site.',
      });
  });
  const decides = (k: number): boolean => {
    const step = sheet.steps[k]!;
    return DECIDES.includes(stages[k] ?? '') && step.kind === 'work' && step.operation !== 'count-classes';
  };
  const isImport = (k: number): boolean => importsOf(sheet).includes(sheet.steps[k] as WorkStep);
  const last = sheet.steps.reduce((found, _, k) => (decides(k) || isImport(k) ? k : found), -1);
  const early = sheet.steps.findIndex((_, k) => k < last && MAKES.includes(stages[k] ?? '') && !isOfNoPoints(sheet, k));
  if (early >= 0)
    throw new JobError('bad-request', {
      what: `The step “${titleOf(sheet.steps[early]!)}” comes before all points have their classes, so what it makes would not meet at the edges of the squares.`,
      where: sheet.name,
      fix: `Move it behind “${titleOf(sheet.steps[last]!)}”.`,
    });
  const clouds = importsOf(sheet).map(({ key }) => ({ from: key }));
  const steps: RunSheet['steps'] = [
    ...sheet.steps.slice(0, last + 1),
    {
      kind: 'gate',
      key: SQUARES_GATE,
      isOff: false,
      gate: { rule: 'look', question: 'Have the neighbouring squares got their classes?' },
    },
    {
      kind: 'work',
      key: MARGIN_STEP,
      operation: 'take-margin-classes',
      isOff: false,
      isProposed: false,
      parameters: { clouds },
    },
    ...sheet.steps.slice(last + 1),
  ];
  return { ...sheet, steps };
}

function importsOf(sheet: RunSheet): WorkStep[] {
  return sheet.steps.filter(
    (step): step is WorkStep =>
      step.kind === 'work' && !step.isOff && step.operation === 'import-cloud' && step.file !== undefined,
  );
}

/** Files that come in are whole in every square. */
function isOfNoPoints({ steps }: RunSheet, k: number): boolean {
  const step = steps[k]!;
  return step.kind === 'work' && operationById(step.operation)?.takesFile === true;
}
