import { lengthUnits, metresPer, type LengthUnit } from './units.js';

/** A length of so many metres as it is said in a unit: "0.43 m", "1.4 ftUS". */
export function saidLength(metres: number, unit: LengthUnit, digits = 2): string {
  return unit === 'metre' ? `${metres.toFixed(digits)} m` : inFeet(metres, unit);
}

/** As {@link saidLength}, in centimetres where metres are the unit. */
export function saidShortLength(metres: number, unit: LengthUnit, digits = 0): string {
  return unit === 'metre' ? `${(metres * 100).toFixed(digits)} cm` : inFeet(metres, unit);
}

function inFeet(metres: number, unit: LengthUnit): string {
  return `${Number((metres / metresPer(unit)).toPrecision(2))} ${lengthUnits[unit].short}`;
}
