import { readFile } from 'node:fs/promises';
import { resolve } from 'node:path';
import type { GivenPlaces, RunSheet, WorkStep } from '@pampero/contract';
import { SheetLibrary } from '../run-sheets/sheet-library.js';
import { checkedSheet } from '../run-sheets/sheet-runner.js';
import { readSettings, sheetsFolder } from '../settings.js';
import { Misuse } from './exit-codes.js';
import { existing } from './files.js';

/** What a run sheet is given on the command line. */
export interface PlaceOptions {
  readonly in?: readonly string[];
  readonly control?: readonly string[];
  readonly checks?: readonly string[];
  readonly place: readonly string[];
  readonly value: readonly string[];
}

/** A run sheet by its file, or by its id among those that there are. @throws Misuse */
export async function findSheet(name: string): Promise<RunSheet> {
  const text = await readFile(name, 'utf8').catch(() => undefined);
  if (text !== undefined) {
    let json: unknown;
    try {
      json = JSON.parse(text);
    } catch (error) {
      throw new Misuse(`${name} is not JSON: ${(error as Error).message}.`);
    }
    return checkedSheet(json);
  }
  const library = new SheetLibrary(sheetsFolder(readSettings(process.env)));
  const { sheets } = await library.list();
  const found = sheets.find(({ id }) => id === name);
  if (!found)
    throw new Misuse(
      `There is no file and no run sheet ${name}. Run sheets: ${sheets.map(({ id }) => id).join(', ')}.`,
    );
  return found.sheet;
}

/** Options of the form key=text. @throws Misuse */
function pairsOf(given: readonly string[], option: string): Map<string, string> {
  return new Map(
    given.map((text) => {
      const at = text.indexOf('=');
      if (at < 1 || at === text.length - 1) throw new Misuse(`${option} takes key=text, and got “${text}”.`);
      return [text.slice(0, at), text.slice(at + 1)];
    }),
  );
}

/** What the options give for the places of a sheet. @throws Misuse where one of them is not given */
export async function placesOf(sheet: RunSheet, options: PlaceOptions): Promise<GivenPlaces> {
  const places: GivenPlaces = {};
  const put = async (key: string, files: readonly string[]): Promise<void> => {
    const given: { folderPath: string }[] = [];
    for (const file of files) given.push({ folderPath: resolve(await existing(file)).replace(/^\/+/, '') });
    places[key] = { files: given };
  };
  const reading = (option: string, fits: (step: WorkStep) => boolean): string => {
    const step = sheet.steps.find(
      (each): each is WorkStep => each.kind === 'work' && each.file !== undefined && fits(each),
    );
    if (!step) throw new Misuse(`No step of the run sheet reads what ${option} gives.`);
    return step.file!;
  };
  const ofRole = (role: string) => (step: WorkStep) =>
    step.operation === 'import-control' && (step.parameters['role'] ?? 'control') === role;
  if (options.in)
    await put(
      reading('--in', ({ operation }) => operation !== 'import-control'),
      options.in,
    );
  if (options.control) await put(reading('--control', ofRole('control')), options.control);
  if (options.checks) await put(reading('--checks', ofRole('check')), options.checks);
  for (const [key, files] of pairsOf(options.place, '--place')) await put(key, files.split(','));
  for (const [key, text] of pairsOf(options.value, '--value')) {
    let value: unknown = text;
    try {
      value = JSON.parse(text);
    } catch {
      // A word or a length as it is typed.
    }
    places[key] = { value };
  }
  for (const { key, label, isOptional } of sheet.places)
    if (!isOptional && !(key in places))
      throw new Misuse(`The run sheet needs “${label}”: give it with ${optionFor(sheet, key)}.`);
  return places;
}

function optionFor(sheet: RunSheet, key: string): string {
  const place = sheet.places.find((each) => each.key === key)!;
  if (place.kind === 'value') return `--value ${key}=...`;
  const step = sheet.steps.find((each): each is WorkStep => each.kind === 'work' && each.file === key);
  if (step?.operation === 'import-control') return step.parameters['role'] === 'check' ? '--checks' : '--control';
  const first = sheet.steps.find(
    (each): each is WorkStep => each.kind === 'work' && each.file !== undefined && each.operation !== 'import-control',
  );
  return first?.file === key ? '--in' : `--place ${key}=...`;
}

/** Gates that a run is let through, each with its reason. @throws Misuse for one that the sheet does not have */
export function acceptedGates(sheet: RunSheet, given: readonly string[]): Map<string, string> {
  const accepted = pairsOf(given, '--accept');
  const gates = sheet.steps.flatMap(({ key, kind }) => (kind === 'gate' ? [key] : []));
  for (const step of accepted.keys())
    if (!gates.includes(step))
      throw new Misuse(`The run sheet has no gate “${step}”. Its gates: ${gates.join(', ') || 'none'}.`);
  return accepted;
}

/** @throws Misuse */
export function epsgOf(text: string): number {
  const epsg = Number(text.replace(/^epsg:/i, ''));
  if (!Number.isInteger(epsg) || epsg <= 0)
    throw new Misuse(`--crs takes an EPSG code such as 5347, and got “${text}”.`);
  return epsg;
}
