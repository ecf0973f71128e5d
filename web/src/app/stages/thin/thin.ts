import type { StageHome } from '../stage-home';

export const thin: StageHome = {
  id: 'thin',
  sheet: () => import('./thin-sheet.component').then((m) => m.ThinSheetComponent),
};
