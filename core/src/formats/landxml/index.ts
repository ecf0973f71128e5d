export { surfaceToLandXml } from './surface-to-landxml.js';
export type { LandXmlOptions } from './surface-to-landxml.js';
export { linesToLandXml } from './lines-to-landxml.js';
export { alignmentElevation, coordGeomPlaces, type ProfileVertex, type GeometryElement } from './coord-geom.js';
