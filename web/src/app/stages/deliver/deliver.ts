import type { StageHome } from '../stage-home';
import { ReportDraft } from './report-draft';

export const deliver: StageHome = {
  id: 'deliver',
  services: [ReportDraft],
  sheet: () => import('./deliver-sheet.component').then((m) => m.DeliverSheetComponent),
};
