/**
 * A repeatable source of numbers in [0, 1): the same seed gives the same sequence on every machine.
 * After Bob Jenkins' small fast generator with three words and a counter (public domain, 32-bit variant).
 */
export function seededRandom(seed: number): () => number {
  let a = 0x9e3779b9;
  let b = 0x243f6a88;
  let c = seed | 0;
  let counter = 1;
  const next = (): number => {
    const sum = (((a + b) | 0) + counter) | 0;
    counter = (counter + 1) | 0;
    a = b ^ (b >>> 9);
    b = (c + (c << 3)) | 0;
    c = ((c << 21) | (c >>> 11)) + sum;
    c |= 0;
    return (sum >>> 0) / 4294967296;
  };
  for (let i = 0; i < 16; i++) next(); // spreads a small seed over all the words
  return next;
}
