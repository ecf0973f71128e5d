import type { KindMode } from './colour-mode';

export const byClass = {
  id: 'class',
  name: 'Class',
  paint: ({ classes }, out, { classColours }) => {
    for (let i = 0; i < out.length; i++) out[i] = classColours[classes[i]!]!;
  },
} as const satisfies KindMode;
