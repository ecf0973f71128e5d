export { polylinesToShapefile, type AttributedLine, type ShapefileParts } from './polyline-writer.js';
export { readShapefileLines } from './shapefile-lines.js';
