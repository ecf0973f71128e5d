import { describe, expect, test } from 'vitest';
import { proposeObjects } from './index.js';

describe('settings for finding objects', () => {
  const dense = { density: 15, noise: 0.018, stripDisagreement: 0 };

  test('go by density, noise and strips, and say why', () => {
    const { settings, reasons } = proposeObjects(dense, 'metre');
    // A street of wires and roofs flown low: a piece of roof under a metre, of wire two or three metres.
    expect(settings.radius).toBeCloseTo(0.8, 9);
    expect(settings.wirePiece).toBeGreaterThan(2);
    expect(settings.wirePiece).toBeLessThan(3);
    expect(settings).toMatchObject({ vehicles: true, fences: true });
    expect(reasons).toHaveLength(4);
    const sparse = proposeObjects({ density: 2, noise: 0.03, stripDisagreement: undefined }, 'metre');
    expect(sparse.settings.radius).toBeGreaterThan(1.5);
    expect(sparse.settings.wirePiece).toBeGreaterThan(5);
    expect(sparse.settings).toMatchObject({ vehicles: false, fences: false });
    expect(sparse.reasons.join(' ')).toMatch(/not looked for/);
  });

  test('strips that lie apart make roofs rougher and low plants harder to tell', () => {
    const apart = proposeObjects({ ...dense, stripDisagreement: 0.1 }, 'metre');
    expect(apart.settings.roughness).toBeGreaterThan(proposeObjects(dense, 'metre').settings.roughness + 0.04);
    expect(apart.settings.lowFrom).toBeGreaterThan(0.2);
    expect(apart.reasons.join(' ')).toMatch(/strips lie 10 cm apart/);
  });

  test('are in the unit of the job', () => {
    const foot = 0.3048;
    const [metres, feet] = [
      proposeObjects(dense, 'metre').settings,
      proposeObjects(dense, 'international-foot').settings,
    ];
    for (const name of ['lowFrom', 'roughness', 'radius', 'wirePiece'] as const)
      expect(feet[name] * foot).toBeCloseTo(metres[name], 6);
  });

  test('where nothing is known of the noise the usual one is taken', () => {
    expect(proposeObjects({ density: 10, noise: undefined, stripDisagreement: undefined }, 'metre').settings.roughness).toBeCloseTo(0.09, 9); // prettier-ignore
  });
});
