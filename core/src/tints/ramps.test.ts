import { expect, test } from 'vitest';
import { rampColour, RAMPS, rampTable } from './ramps.js';

/** CIE L* of an sRGB colour (IEC 61966-2-1, CIE 15:2018). */
function lightness([r, g, b]: readonly number[]): number {
  const linear = [r!, g!, b!].map((v) => (v / 255 <= 0.04045 ? v / 255 / 12.92 : ((v / 255 + 0.055) / 1.055) ** 2.4));
  const y = 0.2126 * linear[0]! + 0.7152 * linear[1]! + 0.0722 * linear[2]!;
  return y > 216 / 24389 ? 116 * Math.cbrt(y) - 16 : (y * 24389) / 27;
}

/** What an eye without green cones sees (Viénot, Brettel and Mollon 1999), for its lightness. */
function withoutGreen([r, g, b]: readonly number[]): number[] {
  return [0.29275 * r! + 0.70725 * g!, 0.29275 * r! + 0.70725 * g!, -0.02234 * r! + 0.02234 * g! + b!];
}

const steps = Array.from({ length: 33 }, (_, i) => i / 32);

test.each(RAMPS.filter(({ id }) => id !== 'either-side').map(({ id }) => id))(
  'ramp %s grows lighter by even steps, also to colour-blind eyes',
  (id) => {
    const light = steps.map((share) => lightness(rampColour(id, share)));
    const gains = light.slice(1).map((l, i) => l - light[i]!);
    const mean = (light.at(-1)! - light[0]!) / gains.length;
    for (const gain of gains) {
      expect(gain).toBeGreaterThan(0.6 * mean);
      expect(gain).toBeLessThan(1.5 * mean);
    }
    const blind = steps.map((share) => lightness(withoutGreen(rampColour(id, share))));
    blind.slice(1).forEach((l, i) => expect(l).toBeGreaterThan(blind[i]!));
  },
);

test('a ramp to either side is lightest in its middle and as dark at one end as at the other', () => {
  const light = steps.map((share) => lightness(rampColour('either-side', share)));
  expect(light.indexOf(Math.max(...light))).toBeGreaterThanOrEqual(15);
  expect(light.indexOf(Math.max(...light))).toBeLessThanOrEqual(17);
  expect(Math.abs(light[0]! - light.at(-1)!)).toBeLessThan(6);
  // Its ends are told apart by hue as well: blue and rust.
  expect(rampColour('either-side', 0)[2]).toBeGreaterThan(rampColour('either-side', 0)[0] + 40);
  expect(rampColour('either-side', 1)[0]).toBeGreaterThan(rampColour('either-side', 1)[2] + 40);
});

test('the table is opaque and goes from end to end', () => {
  const table = rampTable('grey');
  const [r, g, b] = rampColour('grey', 1);
  expect(table.at(-1)).toBe((0xff000000 | (b << 16) | (g << 8) | r) >>> 0);
  expect(table.every((colour) => colour >>> 24 === 255)).toBe(true);
});
