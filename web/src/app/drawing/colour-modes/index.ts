import { byDifference, byHeight } from './above-surface';
import { byAccuracy } from './accuracy';
import { byClass } from './class';
import type { ColourModeFacts } from './colour-mode';
import { byConfidence } from './confidence';
import { byElevation } from './elevation';
import { byFoundStrip } from './found-strip';
import { byGpsTime } from './gps-time';
import { byGreenness } from './greenness';
import { byIntensity } from './intensity';
import { byPhotoColour } from './photo-colour';
import { byReturn } from './returns';
import { byReturnCount } from './return-count';
import { byScanAngle } from './scan-angle';
import { byStrip } from './strip';
import { byVegetationIndex } from './vegetation-index';

/** Everything that points can be coloured by, in the order of the list beside the view. */
export const COLOUR_MODES = [
  byClass,
  byElevation,
  byIntensity,
  byPhotoColour,
  byReturn,
  byReturnCount,
  byStrip,
  byFoundStrip,
  byGpsTime,
  byScanAngle,
  byGreenness,
  byVegetationIndex,
  byConfidence,
  byAccuracy,
  byHeight,
  byDifference,
] as const satisfies readonly ColourModeFacts[];

export type ColourMode = (typeof COLOUR_MODES)[number]['id'];

export function colourMode(id: ColourMode): ColourModeFacts {
  return COLOUR_MODES.find((mode) => mode.id === id) ?? byClass;
}

export { isRamped, PLAIN, type ColourModeFacts, type ModeSight } from './colour-mode';
