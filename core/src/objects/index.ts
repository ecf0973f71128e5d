export { classifyObjects, OBJECT_CLASS, objectMargin } from './classify-objects.js';
export type { ObjectOptions } from './classify-objects.js';
export { addGround, groundAt, groundModel, mergeGround, newGroundSums } from './ground-heights.js';
export type { GroundModel, GroundSums } from './ground-heights.js';
export {
  bridgeDecks,
  DECK_MISTAKEN_FOR,
  DECK_SEES,
  deckScale,
  upperSurface,
  type BridgeOptions,
  type DeckLevels,
  type UpperSurface,
} from './bridges.js';
export { carryClasses } from './carry-classes.js';
export { groupObjects, type ClassCells, type ObjectGroup } from './object-groups.js';
export { proposeObjects, type ObjectEvidence, type ObjectProposal } from './object-proposal.js';
export { eigenvalues } from './covariance.js';
export { buildingPoints, planarPoints, roofMargin, WIDE_ROOFS } from './roofs.js';
export { SMALL_OBJECT } from './small-object-kind.js';
export { smallObjects, type SmallObjectOptions } from './small-objects.js';
export { waterAt, waterLevels, type WaterLevels, type WaterOptions } from './water.js';
export { wirePoints } from './wires.js';
export type { WireOptions } from './wires.js';
export type { RoofOptions } from './roofs.js';
export { buildingOutlines, type BuildingOutline, type OutlineOptions } from './building-outlines.js';
