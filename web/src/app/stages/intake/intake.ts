import { layerKey } from '../../state/layer-store';
import type { Shown, StageHome } from '../stage-home';

const showColours = ({ layers, look }: Shown): void => {
  look.mode.set('colour');
  layers.showing.set('points');
};

export const intake: StageHome = {
  id: 'intake',
  sheet: () => import('./intake-sheet.component').then((m) => m.IntakeSheetComponent),
  shows: {
    'import-picture': ({ layers }, { productId }) => {
      if (productId !== undefined) layers.setShown(layerKey('picture', productId), true);
    },
    'import-photographs': ({ layers }, { productId }) => {
      if (productId !== undefined) layers.setShown(layerKey('photographs', productId), true);
    },
    'join-pictures': ({ layers }, { productId }) => {
      if (productId !== undefined) layers.setShown(layerKey('picture', productId), true);
    },
    'colour-cloud': showColours,
    'colour-from-photographs': showColours,
  },
};
