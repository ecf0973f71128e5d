/** Of all 256 class codes a 1 for those that are meant. */
export function classMask(codes: readonly number[]): Uint8Array {
  const mask = new Uint8Array(256);
  for (const code of codes) mask[code] = 1;
  return mask;
}
