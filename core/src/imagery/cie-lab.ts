/** Lightness 0 to 100, and two axes of colour: equal distances look about equally far apart. */
export type Lab = readonly [lightness: number, a: number, b: number];

/** White under D65 for the 2 degree observer (CIE 15:2004). */
const WHITE = [0.95047, 1, 1.08883] as const;
const [KAPPA, EPSILON] = [24389 / 27, 216 / 24389];

/** A channel of sRGB, 0 to 255, as light (IEC 61966-2-1). */
const LINEAR = Float64Array.from({ length: 256 }, (_, value) => {
  const v = value / 255;
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
});

/** sRGB, 0 to 255 whole numbers, as CIE L*a*b* (CIE 15:2004; matrix of IEC 61966-2-1). */
export function labOf(red: number, green: number, blue: number): Lab {
  const [r, g, b] = [LINEAR[red]!, LINEAR[green]!, LINEAR[blue]!];
  const x = curve((0.4124564 * r + 0.3575761 * g + 0.1804375 * b) / WHITE[0]);
  const y = curve(0.2126729 * r + 0.7151522 * g + 0.072175 * b);
  const z = curve((0.0193339 * r + 0.119192 * g + 0.9503041 * b) / WHITE[2]);
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)];
}

function curve(t: number): number {
  return t > EPSILON ? Math.cbrt(t) : (KAPPA * t + 16) / 116;
}

/** The distance of two colours: CIE 1976. */
export function labDistance(one: Lab, two: Lab): number {
  return Math.hypot(one[0] - two[0], one[1] - two[1], one[2] - two[2]);
}
