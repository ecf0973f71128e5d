import type { Routes } from '@angular/router';

export const routes: Routes = [
  {
    path: '',
    title: 'Jobs · Pampero',
    loadComponent: () => import('./jobs/jobs-page.component').then((m) => m.JobsPageComponent),
  },
  { path: 'jobs/:jobId', pathMatch: 'full', redirectTo: 'jobs/:jobId/intake' },
  {
    path: 'jobs/:jobId/:stage',
    title: 'Pampero',
    loadComponent: () => import('./workbench/workbench.component').then((m) => m.WorkbenchComponent),
  },
  { path: '**', redirectTo: '' },
];
