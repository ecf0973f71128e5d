import { abgr, stripColour } from '../colours';
import { PLAIN, type KindMode } from './colour-mode';

/** So many are told apart in a list. */
const MOST_LISTED = 40;

const known = new Map<number, number>();
function colourOfStrip(id: number): number {
  let colour = known.get(id);
  if (colour === undefined) known.set(id, (colour = abgr(stripColour(id))));
  return colour;
}

export const byStrip = {
  id: 'strip',
  name: 'Strip',
  column: 'pointSourceId',
  paint: ({ columns }, out) => {
    const bytes = columns.get('pointSourceId');
    if (!bytes) return void out.fill(PLAIN);
    const ids = new Uint16Array(bytes);
    for (let i = 0; i < out.length; i++) out[i] = colourOfStrip(ids[i]!);
  },
  kindsOf: ({ clouds }) =>
    [...new Set(clouds.flatMap(({ source }) => source.strips))]
      .sort((a, b) => a - b)
      .slice(0, MOST_LISTED)
      .map((id) => ({ name: `strip ${id}`, colour: stripColour(id) })),
} as const satisfies KindMode;
