import type { StageHome } from '../stage-home';

export const align: StageHome = {
  id: 'align',
  sheet: () => import('./align-sheet.component').then((m) => m.AlignSheetComponent),
};
