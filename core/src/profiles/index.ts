export { elevationAt, profileOf, simplified, type Profile } from './profile.js';
