import type { Crs } from '@pampero/contract';
import type { CrsDescription } from '@pampero/core/geodesy';

/** What a file says of its system, as the API tells it. */
export function statedCrs({ epsg, name, horizontalUnit, verticalUnit, isGeographic }: CrsDescription): Crs {
  return {
    ...(epsg !== undefined && { epsg }),
    ...(name !== undefined && { name }),
    ...(horizontalUnit && { horizontalUnit }),
    ...(verticalUnit && { verticalUnit }),
    ...(isGeographic !== undefined && { isGeographic }),
  };
}
