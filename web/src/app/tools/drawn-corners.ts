type Pixel = readonly [number, number];

/** The corners of what a tool drew, in pixels of a view so many of them high. */
export function cornersOf(tool: string, pixels: readonly Pixel[], height: number): Pixel[] {
  const [first, last] = [pixels[0]!, pixels.at(-1)!];
  if (tool === 'box') return [first, [last[0], first[1]], last, [first[0], last[1]]];
  if (tool !== 'above' && tool !== 'below') return withoutRepeats(pixels);
  if (pixels.length < 2) return [];
  // To the edge of what is seen: what lies beyond it could surprise.
  const edge = tool === 'above' ? 0 : height;
  return withoutRepeats([...pixels, [last[0], edge], [first[0], edge]]);
}

function withoutRepeats(pixels: readonly Pixel[]): Pixel[] {
  return pixels.filter(([x, y], i) => i === 0 || x !== pixels[i - 1]![0] || y !== pixels[i - 1]![1]);
}
