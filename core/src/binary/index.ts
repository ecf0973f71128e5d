export { packArrays, unpackArrays } from './array-pack.js';
export type { PackedArray } from './array-pack.js';
