import { returnKind } from '@pampero/core/selection';
import { abgr, RETURN_COLOURS } from '../colours';
import { PLAIN, type KindMode } from './colour-mode';

const TABLE = Uint32Array.from({ length: 256 }, (_, byte) => abgr(RETURN_COLOURS[returnKind(byte)]));

export const byReturn = {
  id: 'returns',
  name: 'Return',
  column: 'returns',
  paint: ({ columns }, out) => {
    const bytes = columns.get('returns');
    if (!bytes) return void out.fill(PLAIN);
    const returns = new Uint8Array(bytes);
    for (let i = 0; i < out.length; i++) out[i] = TABLE[returns[i]!]!;
  },
  kindsOf: () => Object.entries(RETURN_COLOURS).map(([name, colour]) => ({ name: `${name} return`, colour })),
} as const satisfies KindMode;
