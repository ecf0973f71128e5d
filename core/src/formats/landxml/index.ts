export { surfaceToLandXml } from './surface-to-landxml.js';
export type { LandXmlOptions } from './surface-to-landxml.js';
