import type { Run } from '@pampero/contract';
import { layerKey } from '../../state/layer-store';
import type { Shown, StageHome } from '../stage-home';
import { ReportDraft } from './report-draft';

function showPicture({ layers }: Shown, { productId }: Run): void {
  if (productId !== undefined) layers.setShown(layerKey('picture', productId), true);
}

export const deliver: StageHome = {
  id: 'deliver',
  services: [ReportDraft],
  sheet: () => import('./deliver-sheet.component').then((m) => m.DeliverSheetComponent),
  shows: { 'draw-picture': showPicture },
};
