import type { StageHome } from '../stage-home';

export const deliver: StageHome = {
  id: 'deliver',
  sheet: () => import('./deliver-sheet.component').then((m) => m.DeliverSheetComponent),
};
