import { className } from '@pampero/core/cloud';
import type { JobClass, NewPin, Pin } from '@pampero/contract';
import { notFound } from '../errors/job-error.js';
import type { Models, PinRow } from './models.js';
import { CLASSES_KEY } from './history-repository.js';
import { storedJson } from './stored-json.js';

export async function listPins(models: Models): Promise<Pin[]> {
  const rows = (await models.pins.findAll({ order: ['id'], raw: true })) as unknown as PinRow[];
  return rows.map(asPin);
}

export async function insertPin(models: Models, { kind, name, ...body }: NewPin): Promise<Pin> {
  const row = await models.pins.create({ kind, name, body: JSON.stringify(body) });
  return asPin(row.get({ plain: true }) as PinRow);
}

export async function removePin(models: Models, id: number): Promise<void> {
  if ((await models.pins.destroy({ where: { id } })) === 0) throw notFound('pin', id);
}

function asPin({ id, kind, name, body }: PinRow): Pin {
  return { id, kind, name, body: storedJson(body) as Record<string, unknown> };
}

/** Names and colours the surveyor gave to classes. */
export async function readJobClasses(models: Models): Promise<JobClass[]> {
  const row = (await models.meta.findByPk(CLASSES_KEY, { raw: true })) as unknown as { value: string } | null;
  return row ? (storedJson(row.value) as JobClass[]) : [];
}

/** The surveyor's name of a class, or the standard's. */
export function classNames(classes: readonly JobClass[]): (code: number) => string {
  return (code) => classes.find((c) => c.code === code)?.name ?? className(code);
}
