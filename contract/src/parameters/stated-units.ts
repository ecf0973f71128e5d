import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';

/** Quantities that are lengths, whose numbers mean nothing without their unit. */
const LENGTHS = new Set<unknown>(['length', 'elevation']);

/**
 * For `z.toJSONSchema`: says of a parameter what unit its default, least and most are in, and that a length may bring its own
 * along ("8 in"). JSON Schema leaves keywords of one's own open, `unit` among them.
 */
export function stateUnit(property: Record<string, unknown>, unit: LengthUnit): void {
  const { quantity } = property;
  if (LENGTHS.has(quantity)) {
    property['type'] = ['number', 'string'];
    property['unit'] = lengthUnits[unit].short;
  } else if (quantity === 'degrees') property['unit'] = '°';
}
