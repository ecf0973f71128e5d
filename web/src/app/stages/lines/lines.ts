import type { Run } from '@pampero/contract';
import { layerKey } from '../../state/layer-store';
import type { Shown, StageHome } from '../stage-home';
import { ProposalStore } from './proposal-store';

/** Lines that came are seen, whatever eye was closed. */
function showLines({ store, layers }: Shown, { productId }: Run): void {
  const made = store.lines().find(({ id }) => id === productId);
  layers.setShown(layerKey('lines', made?.seriesId ?? productId ?? -1), true);
}

function showProposals({ layers }: Shown, { productId }: Run): void {
  if (productId !== undefined) layers.setShown(layerKey('proposals', productId), true);
}

export const lines: StageHome = {
  id: 'lines',
  sheet: () => import('./lines-sheet.component').then((m) => m.LinesSheetComponent),
  services: [ProposalStore],
  shows: {
    'import-lines': showLines,
    'fetch-boundaries': showLines,
    'follow-break': showLines,
    'shape-lines': showLines,
    'find-channels': showLines,
    'find-water-edges': showLines,
    'outline-buildings': showLines,
    'outline-voids': showLines,
    'outline-mask': showLines,
    'find-breaks': showProposals,
  },
};
