import { describe, expect, test } from 'vitest';
import { flightParts, type FlightFile } from './flight-lines';

const file = (properties?: FlightFile['features'][number]['properties']): FlightFile => ({
  features: [
    {
      geometry: {
        coordinates: [
          [0, 0, 50],
          [10, 0, 50],
          [20, 0, 50],
          [30, 0, 50],
        ],
      },
      ...(properties && { properties }),
    },
  ],
});
const span = (name: string, from: number, to: number, colour: string) => ({ name, from, to, colour });

describe('lines of a flight', () => {
  test('by strip: each leg has the colour of the strip its middle lies in, the rest is one part', () => {
    const parts = flightParts(file({ time: [0, 1, 2, 3] }), [0, 0, 0], {
      by: 'strip',
      spans: [span('north bank', 0, 1, '#111111'), span('cross', 2, 9, '#222222')],
    });
    expect(parts.map(({ name, colour, positions }) => [name, colour, positions[0], positions.length])).toEqual([
      ['strip north bank', '#111111', 0, 6],
      ['between', '#9A968C', 10, 6],
      ['strip cross', '#222222', 20, 6],
    ]);
  });

  test('by time: from one end of the ramp to the other, nothing left out', () => {
    const parts = flightParts(file({ time: [0, 1, 2, 3] }), [0, 0, 0], { by: 'time' });
    expect(new Set(parts.map(({ colour }) => colour)).size).toBe(parts.length);
    expect(parts.reduce((sum, { positions }) => sum + positions.length, 0)).toBe(18);
  });

  test('what is not known is drawn plainly: no times, no accuracies, one value only', () => {
    for (const colouring of [{ by: 'strip', spans: [] } as const, { by: 'time' } as const, { by: 'accuracy' } as const])
      expect(flightParts(file(), [0, 0, 0], colouring).map(({ name }) => name)).toEqual(['plain']);
    expect(flightParts(file({ time: [0, 1, 2, 3] }), [0, 0, 0], { by: 'accuracy' }).map(({ name }) => name)).toEqual([
      'plain',
    ]);
    expect(flightParts(file({ time: [5, 5, 5, 5] }), [0, 0, 0], { by: 'time' })).toHaveLength(1);
  });
});
