import type { StageHome } from '../stage-home';

export const intake: StageHome = {
  id: 'intake',
  sheet: () => import('./intake-sheet.component').then((m) => m.IntakeSheetComponent),
};
