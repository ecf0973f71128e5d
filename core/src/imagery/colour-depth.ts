/** 8 bits as 16: by 257, so that 255 becomes 65 535 (LAS 1.4 R15, section 2.6: colours are normalised to 16 bits). */
export const EIGHT_TO_SIXTEEN = 257;

/**
 * How a column of 16 bits was filled: truly, with values of 8 bits as they are, or with those moved to the upper byte and nothing below.
 * The last two come from programs that did not normalise; {@link toFullDepth} mends them.
 */
export type ColourDepth = 'full' | 'low-byte' | 'high-byte';

/** Tells the depth from all bits that occur; of nothing but zeros it is full. */
export function colourDepth(bitsInUse: number): ColourDepth {
  if (bitsInUse === 0) return 'full';
  if (bitsInUse <= 255) return 'low-byte';
  return (bitsInUse & 255) === 0 ? 'high-byte' : 'full';
}

/** Mends values in place. */
export function toFullDepth(values: Uint16Array, depth: ColourDepth): void {
  if (depth === 'low-byte') for (let i = 0; i < values.length; i++) values[i]! *= EIGHT_TO_SIXTEEN;
  else if (depth === 'high-byte') for (let i = 0; i < values.length; i++) values[i]! |= values[i]! >> 8;
}
