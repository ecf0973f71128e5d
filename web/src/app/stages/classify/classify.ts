import { layerKey } from '../../state/layer-store';
import type { Shown, StageHome } from '../stage-home';
import { MaskStore } from './mask-store';
import { SuspectStore } from './suspect-store';

/** What was classed is looked at by class, in the clouds. */
function showClasses({ store, layers, look }: Shown): void {
  look.mode.set('class');
  layers.showing.set('points');
  for (const { id } of store.clouds()) layers.setShown(layerKey('cloud', id), true);
}

export const classify: StageHome = {
  id: 'classify',
  sheet: () => import('./classify-sheet.component').then((m) => m.ClassifySheetComponent),
  services: [SuspectStore, MaskStore],
  shows: {
    'find-ground': showClasses,
    'find-objects': showClasses,
    'find-water': showClasses,
    'find-bridges': showClasses,
    'take-margin-classes': showClasses,
    'transfer-classes': showClasses,
    'use-mask': showClasses,
    'mask-by-colour': ({ layers }, { productId }) => {
      if (productId !== undefined) layers.setShown(layerKey('mask', productId), true);
    },
  },
};
