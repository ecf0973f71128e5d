import { abgr } from '../colours';
import { PLAIN, type KindMode } from './colour-mode';

/** Strips that were found by gaps in time or by straight runs; points of none are grey. */
export const byFoundStrip = {
  id: 'found-strip',
  name: 'Strip, as found',
  column: 'gpsTime',
  isThere: ({ strips }) => strips.length > 0,
  paint: ({ columns }, out, { strips }) => {
    const bytes = columns.get('gpsTime');
    if (!bytes || strips.length === 0) return void out.fill(PLAIN);
    const times = new Float64Array(bytes);
    const colours = strips.map(({ colour }) => abgr(colour));
    let last = 0;
    for (let i = 0; i < out.length; i++) {
      const time = times[i]!;
      // Points beside one another are mostly of one strip.
      if (!(time >= strips[last]!.from && time <= strips[last]!.to)) {
        let [low, high] = [0, strips.length - 1];
        while (low < high) {
          const middle = (low + high + 1) >> 1;
          if (strips[middle]!.from <= time) low = middle;
          else high = middle - 1;
        }
        last = low;
      }
      out[i] = time >= strips[last]!.from && time <= strips[last]!.to ? colours[last]! : PLAIN;
    }
  },
  kindsOf: ({ strips }) => [
    ...new Map(strips.map(({ name, colour }) => [name, { name: `strip ${name}`, colour }])).values(),
  ],
} as const satisfies KindMode;
