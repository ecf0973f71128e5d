import type { Figure, GateStep } from '@pampero/contract';
import { lengthUnits, readLength, readTypedNumber, type LengthUnit } from '@pampero/core/geodesy';
import type { Models } from '../store/models.js';
import { listProducts } from '../store/product-repository.js';
import type { GateVerdict, SheetEntry } from '../store/sheet-run-repository.js';
import { keyOfStep, wordOf } from './sheet-plan.js';

/** Whether a gate holds now, and why not. */
export async function askGate(
  { gate }: GateStep,
  { models, unit, entries }: { models: Models; unit: LengthUnit; entries: ReadonlyMap<string, SheetEntry> },
): Promise<GateVerdict> {
  if (gate.rule === 'look') return { state: 'waiting', outcome: gate.question };
  if (gate.rule === 'nothing-stale') {
    const stale = (await listProducts(models)).filter(({ isStale }) => isStale);
    return stale.length === 0
      ? { state: 'done', outcome: 'Nothing is stale.' }
      : { state: 'waiting', outcome: `Stale: ${stale.map(({ name }) => name).join(', ')}. Rebuild, then go on.` };
  }
  const limit = typeof gate.limit === 'number' ? gate.limit : lengthOf(gate.limit, unit);
  const of = [...entries.values()].filter(({ step, state }) => keyOfStep(step) === gate.of && state === 'done');
  const figures = of.flatMap((entry) => entry.figures.filter(({ label }) => isCalled(label, gate.figure)));
  const must = `It must be ${wordOf(gate.must)} ${gate.limit}.`;
  if (limit === undefined) return { state: 'waiting', outcome: `“${gate.limit}” is no number and no length.` };
  if (figures.length === 0) {
    const known = [...new Set(of.flatMap((entry) => entry.figures.map(({ label }) => label)))];
    return {
      state: 'waiting',
      outcome: `There is no figure “${gate.figure}” to look at. ${known.length > 0 ? `The step tells: ${known.join(', ')}.` : 'The step tells none.'}`,
    };
  }
  const told = figures.map((figure) => ({ ...figure, number: numberOf(figure.value, unit) }));
  const bad = told.filter(
    ({ number }) => number === undefined || (gate.must === 'at-most' ? number > limit : number < limit),
  );
  const text = (each: (typeof told)[number]): string => `${each.label} is ${asText(each, unit, limit)}`;
  return bad.length === 0
    ? { state: 'done', outcome: `${told.map(text).join(', ')}. ${must}`, figures }
    : { state: 'waiting', outcome: `${bad.map(text).join(', ')}. ${must}`, figures };
}

/** The figure itself, or that of one of several clouds: "Lidar, east, rmsez". */
function isCalled(label: string, wanted: string): boolean {
  const [a, b] = [label.toLowerCase(), wanted.toLowerCase()];
  return a === b || a.endsWith(`, ${b}`);
}

/** With as few digits as tell on which side of the limit it lies: what is too much by little is not written as if it held. */
function asText({ value, quantity }: Figure, unit: LengthUnit, limit: number): string {
  if (typeof value === 'string') return value;
  const precise = [3, 4, 5, 6].map((figures) => Number(value.toPrecision(figures)));
  const digits = String(precise.find((rounded) => Math.sign(rounded - limit) === Math.sign(value - limit)) ?? value);
  return quantity === 'length' ? `${digits} ${lengthUnits[unit].short}` : digits;
}

function numberOf(value: Figure['value'], unit: LengthUnit): number | undefined {
  if (typeof value === 'number') return value;
  const text = value.replace(/\s*%$/, '');
  const length = lengthOf(text, unit);
  if (length !== undefined) return text === value ? length : length / 100;
  return undefined;
}

function lengthOf(text: string, unit: LengthUnit): number | undefined {
  const own = lengthUnits[unit].short;
  const plain = text.endsWith(` ${own}`) ? text.slice(0, -own.length - 1) : text;
  const typed = readTypedNumber(plain);
  if ('value' in typed) return typed.value;
  const length = readLength(text, unit);
  return 'value' in length ? length.value : undefined;
}
