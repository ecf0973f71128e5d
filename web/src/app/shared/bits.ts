/** Bits of points as they travel: base 64. */
export function bitsFromText(text: string): Uint8Array {
  return Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
}
