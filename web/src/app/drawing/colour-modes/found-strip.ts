import { spansAt } from '@pampero/core/strips';
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
    out.fill(PLAIN);
    if (!bytes) return;
    const colours = strips.map(({ colour }) => abgr(colour));
    const spans = { from: strips.map(({ from }) => from), to: strips.map(({ to }) => to) };
    spansAt(spans, new Float64Array(bytes), (i, span) => (out[i] = colours[span]!));
  },
  kindsOf: ({ strips }) => [
    ...new Map(strips.map(({ name, colour }) => [name, { name: `strip ${name}`, colour }])).values(),
  ],
} as const satisfies KindMode;
