import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import type { OperationDescription, Preset } from '../operations/operation-description.js';
import { lengthInUnit } from './length.js';
import type { ParameterMeta } from './parameter-meta.js';

/** One parameter as a form shows it. */
export interface ParameterField extends Omit<ParameterMeta, 'choices'> {
  readonly choices?: readonly { readonly value: string; readonly label: string }[];
  readonly name: string;
  readonly type: 'number' | 'integer' | 'string' | 'boolean' | 'choice' | 'array';
  /** May be left out. */
  readonly isOptional?: boolean;
  readonly default?: unknown;
  readonly minimum?: number;
  readonly maximum?: number;
}

interface JsonProperty extends Partial<ParameterMeta> {
  type?: string;
  enum?: string[];
  default?: unknown;
  minimum?: number;
  maximum?: number;
}

/** The parameters of an operation in a job's unit, in the order they are declared. */
export function parameterFields(operation: OperationDescription, unit: LengthUnit): ParameterField[] {
  const schema = z.toJSONSchema(operation.parameters(unit), { io: 'output', unrepresentable: 'any' }) as {
    properties: Record<string, JsonProperty>;
    required?: string[];
  };
  const required = new Set(schema.required);
  const shown = Object.entries(schema.properties).filter(([, property]) => !property.isHidden);
  return shown.map(([name, property]) => ({
    name,
    type: property.enum ? 'choice' : (property.type as ParameterField['type']),
    label: property.label ?? name,
    help: property.help ?? '',
    ...(property.quantity && { quantity: property.quantity }),
    ...(property.refersTo && { refersTo: property.refersTo }),
    ...(property.none && { none: property.none }),
    ...(!required.has(name) && { isOptional: true }),
    ...(property.isAdvanced && { isAdvanced: true }),
    ...(property.appliesTo && { appliesTo: property.appliesTo }),
    ...(property.enum && {
      choices: property.enum.map((value) => ({ value, label: property.choices?.[value] ?? value })),
    }),
    ...(property.default !== undefined && { default: property.default }),
    ...(property.minimum !== undefined && { minimum: property.minimum }),
    ...(property.maximum !== undefined && { maximum: property.maximum }),
  }));
}

/** A preset's values in a job's unit. */
export function presetValues(
  operation: OperationDescription,
  preset: Preset,
  unit: LengthUnit,
): Record<string, unknown> {
  const isLength = new Set(
    parameterFields(operation, unit)
      .filter(({ quantity }) => quantity === 'length')
      .map(({ name }) => name),
  );
  return Object.fromEntries(
    Object.entries(preset.values).map(([name, value]) => [
      name,
      typeof value === 'number' && isLength.has(name) ? lengthInUnit(value, unit) : value,
    ]),
  );
}
