import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import type { ProfileResource } from '@pampero/contract';
import { catchError, of, switchMap } from 'rxjs';
import { ApiService } from '../api/api.service';
import { shortUnit } from '../shared/format';
import { FigureCardsComponent } from '../sheets/figure-cards.component';
import { WorkbenchStore } from '../workbench/workbench-store';
import { ProfileChartComponent } from './profile-chart.component';
import { ProfileDialogComponent, type ProfileDialogData } from './profile-dialog.component';

/** Profiles of the shown surfaces along the section’s line; the newest is drawn. */
@Component({
  selector: 'pam-profile-panel',
  imports: [FigureCardsComponent, MatButtonModule, ProfileChartComponent],
  template: `
    <p class="soft">
      {{
        store.section()
          ? 'The shown surfaces are cut along the section that is laid in Plan.'
          : 'Lay a section in Plan first: its line is the profile’s.'
      }}
    </p>
    <div class="act">
      <button
        mat-flat-button
        type="button"
        data-testid="run-draw-profile"
        [disabled]="!store.section() || store.shownSurfaces().length === 0"
        (click)="draw()"
      >
        Draw profile
      </button>
      @if (profile()) {
        <button mat-button type="button" (click)="enlarge()" data-testid="enlarge-profile">Enlarge</button>
      }
    </div>
    @if (fault()) {
      <p class="fault" role="alert">{{ fault() }}</p>
    }
    @if (profile(); as body) {
      <pam-profile-chart [profile]="body" [unit]="unit()" data-testid="profile-chart" />
      <pam-figure-cards kind="profile" />
      <p class="soft">It leaves in Deliver as a list of stations, elevations and grades.</p>
    }
  `,
  styles: `
    .soft {
      margin: 0 0 8px;
      color: var(--ink-2);
    }
    .act {
      display: flex;
      gap: 8px;
      margin: 8px 0;
    }
    .fault {
      color: #b3261e;
      font-size: 12.5px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ProfilePanelComponent {
  protected readonly store = inject(WorkbenchStore);
  private readonly api = inject(ApiService);
  private readonly dialog = inject(MatDialog);
  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly fault = signal('');
  private readonly newest = computed(() => this.store.products().findLast(({ kind }) => kind === 'profile')?.id);
  protected readonly profile = toSignal(
    toObservable(this.newest).pipe(
      switchMap((id) =>
        id === undefined
          ? of(undefined)
          : this.api
              .readProfile(this.store.jobId(), id)
              .pipe(catchError(() => of<ProfileResource | undefined>(undefined))),
      ),
    ),
  );

  protected draw(): void {
    const section = this.store.section();
    if (!section) return;
    this.fault.set('');
    const cloud = this.store.shownClouds().at(-1);
    this.store.start(
      'draw-profile',
      {
        surfaceIds: this.store.shownSurfaces().map(({ id }) => id),
        line: [[...section.a], [...section.b]],
        depth: this.store.sectionDepth() / 2,
        ...(cloud && { cloudId: cloud.id }),
      },
      ({ problem }) => this.fault.set(problem.errors?.[0]?.detail ?? problem.detail),
    );
  }

  protected enlarge(): void {
    const profile = this.profile();
    const product = this.store.products().find(({ id }) => id === this.newest());
    if (!profile || !product) return;
    this.dialog.open<ProfileDialogComponent, ProfileDialogData>(ProfileDialogComponent, {
      width: '1000px',
      maxWidth: '94vw',
      data: { profile, name: product.name, unit: this.unit() },
    });
  }
}
