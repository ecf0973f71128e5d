import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';

export function shortUnit(unit: LengthUnit): string {
  return lengthUnits[unit].short;
}
