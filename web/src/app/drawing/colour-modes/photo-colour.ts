import { bandsOf, PLAIN, type KindMode } from './colour-mode';

export const byPhotoColour = {
  id: 'colour',
  name: 'RGB',
  column: 'colour',
  isThere: ({ clouds }) => clouds.some(({ columns }) => columns.rgb),
  paint: (points, out) => {
    const [red, green, blue] = bandsOf(points) ?? [];
    if (!red || !green || !blue) return void out.fill(PLAIN);
    for (let i = 0; i < out.length; i++)
      out[i] = (0xff000000 | ((blue[i]! >> 8) << 16) | ((green[i]! >> 8) << 8) | (red[i]! >> 8)) >>> 0;
  },
} as const satisfies KindMode;
