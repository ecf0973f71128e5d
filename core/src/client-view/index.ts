export {
  packExtras,
  packLand,
  unpackExtras,
  unpackLand,
  type ViewContent,
  type ViewExtras,
  type ViewLand,
  type ViewLines,
  type ViewPoints,
} from './pack-view.js';
export { HeightField, outlineArea } from './height-field.js';
