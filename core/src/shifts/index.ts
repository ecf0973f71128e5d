export { applySimilarity, fitSimilarity, undoSimilarity, type Similarity } from './similarity.js';
export { checkShift, type ShiftFound, type Sureness, type TileShift, type Witness } from './shift-check.js';
export { addWitnesses, lightnessOver, newWitnessSums, witnessesOf, type WitnessSums } from './witnesses.js';
