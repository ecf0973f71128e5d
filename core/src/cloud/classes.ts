/** A class of the ASPRS LAS specification 1.4 R15, table 17, or one of the surveyor's own (64-255). */
export interface PointClass {
  readonly code: number;
  readonly name: string;
}

/** Standard point classes of formats 6-10: LAS 1.4 R15, table 17. */
export const standardClasses: readonly PointClass[] = [
  { code: 0, name: 'Never classified' },
  { code: 1, name: 'Unclassified' },
  { code: 2, name: 'Ground' },
  { code: 3, name: 'Low vegetation' },
  { code: 4, name: 'Medium vegetation' },
  { code: 5, name: 'High vegetation' },
  { code: 6, name: 'Building' },
  { code: 7, name: 'Low point (noise)' },
  { code: 8, name: 'Model key-point' },
  { code: 9, name: 'Water' },
  { code: 10, name: 'Rail' },
  { code: 11, name: 'Road surface' },
  { code: 12, name: 'Overlap' },
  { code: 13, name: 'Wire, guard' },
  { code: 14, name: 'Wire, conductor' },
  { code: 15, name: 'Transmission tower' },
  { code: 16, name: 'Wire connector' },
  { code: 17, name: 'Bridge deck' },
  { code: 18, name: 'High noise' },
  { code: 19, name: 'Overhead structure' },
  { code: 20, name: 'Ignored ground' },
  { code: 21, name: 'Snow' },
  { code: 22, name: 'Temporal exclusion' },
];

export const GROUND = 2;
/** Low points and high noise. */
export const NOISE_CLASSES: readonly number[] = [7, 18];

/** The standard's name of a class, "Reserved 37" for codes without one, "User class 70" from 64 up. */
export function className(code: number): string {
  return standardClasses.find((c) => c.code === code)?.name ?? (code >= 64 ? `User class ${code}` : `Reserved ${code}`);
}
