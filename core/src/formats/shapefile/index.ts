export { polylinesToShapefile, type AttributedLine, type ShapefileParts } from './polyline-writer.js';
