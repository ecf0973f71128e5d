import type { ProductKindId, Run } from '@pampero/contract';
import { layerKey } from '../../state/layer-store';
import type { Shown, StageHome } from '../stage-home';

const reveal =
  (kind: ProductKindId) =>
  ({ layers }: Shown, { productId }: Run): void => {
    if (productId !== undefined) layers.setShown(layerKey(kind, productId), true);
  };

const showColours = ({ layers, look }: Shown): void => {
  look.mode.set('colour');
  layers.showing.set('points');
};

export const intake: StageHome = {
  id: 'intake',
  sheet: () => import('./intake-sheet.component').then((m) => m.IntakeSheetComponent),
  shows: {
    'import-picture': reveal('picture'),
    'import-photographs': reveal('photographs'),
    'join-pictures': reveal('picture'),
    'colour-cloud': showColours,
    'colour-from-photographs': showColours,
  },
};
