export { RAMP_SIZE, rampColour, rampGradient, RAMPS, rampTable, type RampId } from './ramps.js';
export { hexOf, rgbOf, stopsOf, tintColour, tintRange, tintTable } from './tint.js';
export type { Tint, TintStop } from './tint.js';
export { CLASS_COLOURS, classColour, hslToHex } from './class-colours.js';
