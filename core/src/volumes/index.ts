export { FacetIndex } from './facet-index.js';
export { volumeBetween, type Volume } from './volume-between.js';
