import { layerKey } from '../../state/layer-store';
import type { StageHome } from '../stage-home';

export const intake: StageHome = {
  id: 'intake',
  sheet: () => import('./intake-sheet.component').then((m) => m.IntakeSheetComponent),
  shows: {
    'import-picture': ({ layers }, { productId }) => {
      if (productId !== undefined) layers.setShown(layerKey('picture', productId), true);
    },
    'colour-cloud': ({ layers, look }) => {
      look.mode.set('colour');
      layers.showing.set('points');
    },
  },
};
