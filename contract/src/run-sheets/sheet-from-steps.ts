import { lengthUnits, readLength, type LengthUnit } from '@pampero/core/geodesy';
import { operationById } from '../operations/index.js';
import { parameterFields, referencesOf, withReferences, type Referable } from '../parameters/index.js';
import { RUN_SHEET_FORMAT, RUN_SHEET_VERSION, type RunSheetInput, type WorkStep } from './run-sheet.js';

/** A step of the field book, with what it made. */
export interface DoneStep {
  readonly id: number;
  readonly operation: string;
  readonly parameters: Readonly<Record<string, unknown>>;
  readonly made: readonly { readonly kind: 'cloud' | 'product'; readonly id: number }[];
}

/** A step that does not go into a run sheet, and why. */
export interface LeftOutStep {
  readonly id: number;
  readonly because: string;
}

type Step = Extract<NonNullable<RunSheetInput['steps']>[number], { kind: 'work' }>;

/**
 * Makes a run sheet of steps that were done: what one made and another used becomes a rule, files and clouds become places,
 * lengths keep their unit.
 *
 * @param seriesOf - the first of those products that took each other's place, so that a product that was edited is still known
 */
export function sheetFromSteps(
  name: string,
  done: readonly DoneStep[],
  unit: LengthUnit,
  seriesOf: (productId: number) => number = (id) => id,
): { readonly sheet: RunSheetInput; readonly leftOut: readonly LeftOutStep[] } {
  const places = new Map<string, NonNullable<RunSheetInput['places']>[number]>();
  const makers = new Map<string, string>();
  const steps: Step[] = [];
  const leftOut: LeftOutStep[] = [];
  const keyOf = (kind: Referable | 'product', id: number): string =>
    kind === 'cloud' ? `cloud ${id}` : `product ${seriesOf(id)}`;
  for (const { id, operation: operationId, parameters, made } of [...done].sort((a, b) => a.id - b.id)) {
    const operation = operationById(operationId);
    const refuse = (because: string): void => void leftOut.push({ id, because });
    if (!operation) refuse('Its operation is not known in this version.');
    else if (operation.isQuick) refuse('It was done by hand, at places of this job.');
    else {
      const unknown = referencesOf(operation, parameters).find(
        ({ refersTo, id: of }) => refersTo !== 'cloud' && !makers.has(keyOf(refersTo, of)),
      );
      if (unknown) {
        refuse('It works from something that no step before it makes. Choose the step that made it as well.');
        continue;
      }
      const key = freeKey(operationId, steps);
      const step: Step = { kind: 'work', key, operation: operationId, parameters: {} };
      if (operation.takesFile) {
        const place = freeKey(`${operationId.replace(/^import-/, '')}-files`, [...places.values()]);
        places.set(place, { key: place, label: `${operation.title}: files`, kind: 'files' });
        step.file = place;
      }
      const { fileName: _, ...given } = parameters;
      const ruled: Record<string, unknown> = withLengths(operation.id, given, unit);
      for (const { refersTo, name: parameter } of referencesOf(operation, given)) {
        const rules = new Map<string, { from: string } | { place: string }>();
        withReferences(operation, { [parameter]: given[parameter] }, (_kind, of) => {
          const maker = makers.get(keyOf(refersTo, of));
          if (maker === undefined) {
            places.set('clouds', {
              key: 'clouds',
              label: 'Clouds',
              help: 'The clouds that the steps work on.',
              kind: 'clouds',
            });
            rules.set('clouds', { place: 'clouds' });
          } else rules.set(maker, { from: maker });
          return of;
        });
        ruled[parameter] = Array.isArray(given[parameter]) ? [...rules.values()] : [...rules.values()][0];
      }
      step.parameters = ruled;
      steps.push(step);
      for (const thing of made) makers.set(keyOf(thing.kind, thing.id), key);
    }
  }
  return {
    sheet: { format: RUN_SHEET_FORMAT, version: RUN_SHEET_VERSION, name, places: [...places.values()], steps },
    leftOut,
  };
}

/** Lengths as text with their unit, so that the sheet says the same in a job of another. */
function withLengths(
  operationId: string,
  parameters: Readonly<Record<string, unknown>>,
  unit: LengthUnit,
): Record<string, unknown> {
  const out: Record<string, unknown> = { ...parameters };
  for (const { name, quantity } of parameterFields(operationById(operationId)!, unit)) {
    const value = out[name];
    if (quantity !== 'length' || typeof value !== 'number') continue;
    const text = `${value} ${lengthUnits[unit].short}`;
    if ('value' in readLength(text, unit)) out[name] = text;
  }
  return out;
}

/** A key that no other has: the words, and a number behind from the second on. */
function freeKey(words: string, taken: readonly Pick<WorkStep, 'key'>[]): string {
  const stem = words.slice(0, 34);
  for (let n = 1; ; n++) {
    const key = n === 1 ? stem : `${stem}-${n}`;
    if (!taken.some((other) => other.key === key)) return key;
  }
}
