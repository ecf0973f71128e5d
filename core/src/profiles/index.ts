export { drapeLine } from './drape-line.js';
export { elevationAt, profileOf, simplified, type Profile } from './profile.js';
