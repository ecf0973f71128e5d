import type { LengthUnit } from '@pampero/core/geodesy';
import { operationById } from '../operations/index.js';
import type { OperationDescription } from '../operations/operation-description.js';
import { parameterFields, type ParameterField } from '../parameters/index.js';
import { PRODUCT_KINDS, type FileFormat } from '../products/index.js';
import {
  POINT_FORMATS,
  RUN_SHEET_FORMAT,
  RUN_SHEET_VERSION,
  ruleOf,
  rulesIn,
  runSheetSchema,
  type GateStep,
  type RunSheet,
  type WorkStep,
} from './run-sheet.js';

/** Something in a run sheet that does not hold, and where. */
export interface SheetFault {
  /** As a path into the file: "steps[2].parameters.tolerance". */
  readonly at: string;
  readonly message: string;
}

/** Any unit does to hold parameters against their schema: lengths with units are read in all of them. */
const UNIT: LengthUnit = 'metre';

/**
 * Reads a run sheet from JSON of any origin.
 * @returns the sheet, or what is wrong with it, each fault with the field it is in
 */
export function readRunSheet(
  given: unknown,
): { readonly sheet: RunSheet } | { readonly faults: readonly SheetFault[] } {
  const version = versionOf(given);
  if (version !== undefined && version > RUN_SHEET_VERSION)
    return {
      faults: [
        {
          at: 'version',
          message: `It was written by a newer Pampero (version ${version}, known up to ${RUN_SHEET_VERSION}). Run it there, or save it in the older version.`,
        },
      ],
    };
  const parsed = runSheetSchema.safeParse(given);
  if (!parsed.success)
    return { faults: parsed.error.issues.map(({ path, message }) => ({ at: pathText(path), message })) };
  const faults = faultsOf(parsed.data);
  return faults.length > 0 ? { faults } : { sheet: parsed.data };
}

function versionOf(given: unknown): number | undefined {
  if (typeof given !== 'object' || given === null) return undefined;
  const { format, version } = given as { format?: unknown; version?: unknown };
  return format === RUN_SHEET_FORMAT && typeof version === 'number' ? version : undefined;
}

export function pathText(path: readonly PropertyKey[]): string {
  return path.reduce<string>(
    (text, part) => (typeof part === 'number' ? `${text}[${part}]` : text ? `${text}.${String(part)}` : String(part)),
    '',
  );
}

/** What of a sheet does not hold together: unknown operations and parameters, rules that point nowhere. */
function faultsOf(sheet: RunSheet): SheetFault[] {
  const faults: SheetFault[] = [];
  const places = new Map(sheet.places.map((place) => [place.key, place]));
  const earlier = new Map<string, WorkStep | GateStep>();
  sheet.places.forEach(({ key }, k) => {
    if (sheet.places.findIndex((other) => other.key === key) < k)
      faults.push({ at: `places[${k}].key`, message: `There are two places “${key}”.` });
  });
  sheet.steps.forEach((step, k) => {
    const at = `steps[${k}]`;
    const fault = (field: string, message: string): void => void faults.push({ at: `${at}.${field}`, message });
    if (earlier.has(step.key) || places.has(step.key)) fault('key', `“${step.key}” is taken by another step or place.`);
    if (step.kind === 'gate') {
      if (step.gate.rule === 'figure') {
        const of = earlier.get(step.gate.of);
        if (of?.kind !== 'work') fault('gate.of', `There is no earlier step “${step.gate.of}” to take a figure from.`);
        else if (of.isOff && !step.isOff) fault('gate.of', `The step “${step.gate.of}” is turned off.`);
      }
    } else checkWork(step, { earlier, places, fault });
    earlier.set(step.key, step);
  });
  sheet.outputs.forEach(({ of, format }, k) => {
    const step = earlier.get(of);
    if (step?.kind !== 'work') faults.push({ at: `outputs[${k}].of`, message: `There is no step “${of}”.` });
    else if (!POINT_FORMATS.includes(format) && !isSomeFormat(format))
      faults.push({ at: `outputs[${k}].format`, message: `No product leaves as “${format}”.` });
  });
  return faults;
}

interface Around {
  readonly earlier: ReadonlyMap<string, WorkStep | GateStep>;
  readonly places: ReadonlyMap<string, RunSheet['places'][number]>;
  readonly fault: (field: string, message: string) => void;
}

function checkWork(step: WorkStep, { earlier, places, fault }: Around): void {
  const operation = operationById(step.operation);
  if (!operation) {
    fault('operation', `There is no operation “${step.operation}” in this version.`);
    return;
  }
  if (operation.takesFile) {
    const place = step.file === undefined ? undefined : places.get(step.file);
    if (place?.kind !== 'files') fault('file', `${operation.title} reads a file: name a place for files.`);
  } else if (step.file !== undefined) fault('file', `${operation.title} reads no file.`);
  if (step.each !== undefined) {
    const isThere =
      earlier.get(step.each)?.kind === 'work' || (places.has(step.each) && places.get(step.each)!.kind === 'clouds');
    if (!isThere) fault('each', `There is no place for clouds and no earlier step “${step.each}”.`);
  }
  const fields = new Map(allFields(operation).map((field) => [field.name, field]));
  for (const [name, value] of Object.entries(step.parameters)) {
    const field = fields.get(name);
    const at = `parameters.${name}`;
    if (!field) {
      fault(at, `${operation.title} has no parameter “${name}” in this version.`);
      continue;
    }
    for (const rule of rulesIn(value)) {
      if ('from' in rule) {
        const of = earlier.get(rule.from);
        if (of?.kind !== 'work') fault(at, `There is no earlier step “${rule.from}”.`);
        else if (of.isOff && !step.isOff) fault(at, `The step “${rule.from}”, which it works from, is turned off.`);
        else if (!field.refersTo) fault(at, `${field.label} is no cloud and no product, so no step can make it.`);
      } else if ('place' in rule) {
        const place = places.get(rule.place);
        if (!place) fault(at, `There is no place “${rule.place}”.`);
        else if (place.kind === 'files') fault(at, `The place “${rule.place}” holds files, not a value.`);
        else if (place.kind === 'clouds' && field.refersTo !== 'cloud') fault(at, `${field.label} is no cloud.`);
      } else if ('every' in rule) {
        if (field.refersTo !== rule.every) fault(at, `${field.label} is not of the kind “${rule.every}”.`);
        else if (field.type !== 'array') fault(at, `${field.label} takes one only.`);
      } else if (field.quantity !== 'length') fault(at, `${field.label} is no length.`);
    }
  }
  const literal = operation.parameters(UNIT).safeParse(withStandIns(step, fields, operation));
  for (const { path, message } of literal.success ? [] : literal.error.issues) {
    const name = String(path[0] ?? '');
    // What a rule, a proposal or a place will give is not known yet.
    const field = fields.get(name);
    if (rulesIn(step.parameters[name]).length > 0) continue;
    const isMissing = isMissed(field, step);
    // Of a list the message is for scripts, which give numbers.
    const told = isMissing && field?.type === 'array' ? `${field.label}: choose what it works on.` : message;
    if (isMissing || name in step.parameters) fault(pathText(['parameters', ...path]), told);
  }
}

/** A cloud or product that is asked for and not given. */
const isMissed = (field: ParameterField | undefined, step: WorkStep): boolean =>
  field?.refersTo !== undefined && !(field.name in step.parameters);

/** All parameters, those that are set by hand too. */
function allFields(operation: OperationDescription): ParameterField[] {
  const shown = parameterFields(operation, UNIT);
  const known = new Set(shown.map(({ name }) => name));
  const hidden = Object.keys(operation.parameters(UNIT).shape).filter((name) => !known.has(name));
  return [...shown, ...hidden.map((name) => ({ name, label: name, help: '', type: 'string' as const }))];
}

/** The step's parameters with something of the right shape wherever a rule stands. */
function withStandIns(
  { parameters }: WorkStep,
  fields: ReadonlyMap<string, ParameterField>,
  operation: OperationDescription,
): Record<string, unknown> {
  const { shape } = operation.parameters(UNIT);
  const out: Record<string, unknown> = {};
  for (const [name, value] of Object.entries(parameters)) {
    const field = fields.get(name);
    if (!(name in shape)) continue;
    const standIn = field?.refersTo ? 1 : field?.default;
    if (ruleOf(value)) out[name] = field?.type === 'array' ? [1] : standIn;
    else if (Array.isArray(value)) out[name] = value.map((each: unknown) => (ruleOf(each) ? standIn : each));
    else out[name] = value;
  }
  return out;
}

/** Forms in which products of any kind leave. */
const isSomeFormat = (format: string): boolean =>
  PRODUCT_KINDS.some(({ formats }) => (formats as readonly FileFormat[]).some(({ id }) => id === format));
