import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { formatNumber, GAP } from '@pampero/core/wording';
import type { OperationDescription } from '../operations/operation-description.js';
import { parameterFields, type ParameterField } from './parameter-fields.js';
import type { Referable } from './parameter-meta.js';

/** What is needed to name what a parameter points at. */
export interface Names {
  /** The name of a cloud or product, or nothing where it has gone. */
  readonly of: (refersTo: Referable, id: number) => string | undefined;
  readonly ofClass: (code: number) => string;
}

/** Parameters of an operation by their labels, as a person reads them. */
export function describeParameters(
  operation: OperationDescription,
  parameters: Readonly<Record<string, unknown>>,
  unit: LengthUnit,
  names: Names,
): { name: string; label: string; value: string }[] {
  return parameterFields(operation, unit).flatMap((field) => {
    const value = parameters[field.name];
    if (value === undefined && field.none === undefined) return [];
    return [
      {
        name: field.name,
        label: field.label,
        value: value === undefined ? field.none! : describe(field, value, unit, names),
      },
    ];
  });
}

function describe(field: ParameterField, value: unknown, unit: LengthUnit, names: Names): string {
  if (Array.isArray(value)) {
    if (value.length === 0) return 'none';
    return value.map((one) => describe(field, one, unit, names)).join(', ');
  }
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (field.refersTo && typeof value === 'number')
    return names.of(field.refersTo, value) ?? `no. ${value}, since replaced`;
  if (typeof value === 'string') return field.choices?.find((choice) => choice.value === value)?.label ?? value;
  if (typeof value !== 'number') return '';
  if (field.quantity === 'class' || field.quantity === 'class-list') return names.ofClass(value);
  const figure = rounded(value);
  if (field.quantity === 'length' || field.quantity === 'elevation') return `${figure}${GAP}${lengthUnits[unit].short}`;
  return field.quantity === 'degrees' ? `${figure}°` : figure;
}

/** Coordinates to the millimetre, other figures to four decimals: nobody measures finer, and what a mouse drew has sixteen. */
function rounded(value: number): string {
  return Math.abs(value) >= 10_000 && !Number.isInteger(value)
    ? formatNumber(value, 3)
    : String(Number(value.toFixed(4)));
}
