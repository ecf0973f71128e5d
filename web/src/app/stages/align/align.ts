import type { StageHome } from '../stage-home';
import { StripEditStore } from './strip-edit-store';
import { TargetStore } from './target-store';

export const align: StageHome = {
  id: 'align',
  sheet: () => import('./align-sheet.component').then((m) => m.AlignSheetComponent),
  services: [StripEditStore, TargetStore],
};
