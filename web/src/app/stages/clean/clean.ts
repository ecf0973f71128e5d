import type { StageHome } from '../stage-home';

export const clean: StageHome = {
  id: 'clean',
  sheet: () => import('./clean-sheet.component').then((m) => m.CleanSheetComponent),
};
