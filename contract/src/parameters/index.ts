import '../plain-faults.js';
export { lengthIn, lengthInUnit, lengthOrNone } from './length.js';
export { meta, type ParameterMeta, type Referable } from './parameter-meta.js';
export { parameterFields, presetValues, type ParameterField } from './parameter-fields.js';
export { describeParameters, type Names } from './describe-parameters.js';
export { stateUnit } from './stated-units.js';
export { referencesOf, withReferences, type Reference } from './references.js';
export {
  any,
  choice,
  classChoice,
  classList,
  clouds,
  count,
  degrees,
  elevation,
  elevationOr,
  figure,
  figureNeeded,
  figureOrNone,
  flag,
  lineKey,
  one,
  oneOrNone,
  productName,
  some,
  words,
} from './builders.js';
