import type { Run } from '@pampero/contract';
import { layerKey } from '../../state/layer-store';
import type { Shown, StageHome } from '../stage-home';
import { SurfaceEditStore } from './surface-edit-store';

function showSurface({ layers }: Shown, { productId }: Run): void {
  if (productId === undefined) return;
  layers.setShown(layerKey('surface', productId), true);
  layers.showing.set('surface');
}

function showGrid({ layers }: Shown, { productId }: Run): void {
  if (productId !== undefined) layers.lookAtGrid(productId);
}

function showContours({ layers }: Shown, { productId }: Run): void {
  if (productId !== undefined) layers.setShown(layerKey('contours', productId), true);
}

export const terrain: StageHome = {
  id: 'terrain',
  sheet: () => import('./terrain-sheet.component').then((m) => m.TerrainSheetComponent),
  services: [SurfaceEditStore],
  shows: {
    'build-surface': showSurface,
    'import-surface': showSurface,
    'design-earthwork': showSurface,
    'build-in-designs': showSurface,
    'make-grid': showGrid,
    'import-grid': showGrid,
    'draw-contours': showContours,
  },
};
