/**
 * Points of a section through strips, as they are and as a correction has them: the distance of each along the line, NaN where it does not lie on the section,
 * its elevation, and its strip, a place in the list of strips. Job units.
 */
export interface StripSection {
  readonly along: Float32Array;
  readonly elevation: Float64Array;
  readonly alongAfter: Float32Array;
  readonly elevationAfter: Float64Array;
  readonly strip: Uint16Array;
}
