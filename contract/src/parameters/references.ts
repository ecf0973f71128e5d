import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import type { OperationDescription } from '../operations/operation-description.js';
import type { ParameterMeta, Referable } from './parameter-meta.js';

/** A parameter whose value is the number of a cloud or product, or a list of them. */
interface ReferringParameter {
  readonly name: string;
  readonly refersTo: Referable;
  readonly appliesTo?: ParameterMeta['appliesTo'];
}

type Parameters = Readonly<Record<string, unknown>>;

/** What an operation with these parameters works from: read off the parameters themselves, so there is nothing to keep in step. */
export interface Reference {
  readonly name: string;
  readonly refersTo: Referable;
  readonly id: number;
}

const known = new Map<string, readonly ReferringParameter[]>();

function referringParameters(operation: OperationDescription): readonly ReferringParameter[] {
  let found = known.get(operation.id);
  if (!found) {
    const unit: LengthUnit = 'metre'; // what a parameter points at is the same in every unit
    const schema = z.toJSONSchema(operation.parameters(unit), { io: 'input', unrepresentable: 'any' }) as {
      properties?: Record<string, Partial<ParameterMeta>>;
    };
    found = Object.entries(schema.properties ?? {}).flatMap(([name, { refersTo, appliesTo }]) =>
      refersTo ? [{ name, refersTo, ...(appliesTo && { appliesTo }) }] : [],
    );
    known.set(operation.id, found);
  }
  return found;
}

/** Clouds and products that an operation with these parameters works from, each once, in the order of its parameters. */
export function referencesOf(operation: OperationDescription, parameters: Parameters): Reference[] {
  const seen = new Set<string>();
  return referringParameters(operation).flatMap(({ name, refersTo, appliesTo }) => {
    if (appliesTo && ![appliesTo.is].flat().includes(String(parameters[appliesTo.name]))) return [];
    const value = parameters[name];
    const ids = (Array.isArray(value) ? value : [value]).filter((id): id is number => typeof id === 'number');
    return ids
      .filter((id) => !seen.has(`${refersTo} ${id}`) && seen.add(`${refersTo} ${id}`))
      .map((id) => ({ name, refersTo, id }));
  });
}

/** The parameters with other numbers in the place of those that they point at. */
export function withReferences(
  operation: OperationDescription,
  parameters: Parameters,
  replaced: (refersTo: Referable, id: number) => number,
): Record<string, unknown> {
  const out: Record<string, unknown> = { ...parameters };
  for (const { name, refersTo } of referringParameters(operation)) {
    const value = out[name];
    if (typeof value === 'number') out[name] = replaced(refersTo, value);
    else if (Array.isArray(value)) out[name] = value.map((id: number) => replaced(refersTo, id));
  }
  return out;
}
