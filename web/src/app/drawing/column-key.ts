/** Attribute columns as the server names them. */
export type ColumnKey =
  | 'intensity'
  | 'returns'
  | 'scanAngle'
  | 'pointSourceId'
  | 'gpsTime'
  | 'colour'
  | 'infrared'
  | 'confidence'
  | 'accuracy';
