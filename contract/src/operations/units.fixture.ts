import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';

export { lengthUnits, type LengthUnit };
export const LENGTH_UNITS = Object.keys(lengthUnits) as LengthUnit[];
