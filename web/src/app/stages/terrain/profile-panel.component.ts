import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { profileSchema, type ProfileResource } from '@pampero/contract';
import { catchError, map, of, switchMap } from 'rxjs';
import { ApiClient, jsonOf } from '../../api/api-client';
import { shortUnit } from '../../shared/format';
import { FigureCardsComponent } from '../../sheets/figure-cards.component';
import { JobStore } from '../../state/job-store';
import { LayerStore } from '../../state/layer-store';
import { ViewStore } from '../../state/view-store';
import { ProfileChartComponent } from './profile-chart.component';
import { ProfileDialogComponent, type ProfileDialogData } from './profile-dialog.component';

/** Profiles of the shown surfaces along the section’s line; the newest is drawn. */
@Component({
  selector: 'pam-profile-panel',
  imports: [FigureCardsComponent, MatButtonModule, ProfileChartComponent],
  template: `
    <p class="soft">
      {{
        views.section()
          ? 'Cuts the shown surfaces along the section in Plan.'
          : 'Draw a section in Plan first. The profile follows its line.'
      }}
    </p>
    <div class="act">
      <button
        mat-flat-button
        type="button"
        data-testid="run-draw-profile"
        [disabled]="!views.section() || layers.shownSurfaces().length === 0"
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
      <p class="soft">Export it in Deliver as stations, elevations and grades.</p>
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
  protected readonly store = inject(JobStore);
  protected readonly layers = inject(LayerStore);
  protected readonly views = inject(ViewStore);
  private readonly api = inject(ApiClient);
  private readonly dialog = inject(MatDialog);
  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly fault = signal('');
  private readonly newest = computed(() => this.store.newest('profile')?.id);
  protected readonly profile = toSignal(
    toObservable(this.newest).pipe(
      switchMap((id) =>
        id === undefined
          ? of(undefined)
          : this.api.call('showProduct', { params: { jobId: this.store.jobId(), productId: id } }).pipe(
              map((bytes) => jsonOf(bytes, profileSchema)),
              catchError(() => of<ProfileResource | undefined>(undefined)),
            ),
      ),
    ),
  );

  protected draw(): void {
    const section = this.views.section();
    if (!section) return;
    this.fault.set('');
    const cloud = this.layers.shownClouds().at(-1);
    this.store.start(
      'draw-profile',
      {
        surfaceIds: this.layers.shownSurfaces().map(({ id }) => id),
        line: [[...section.a], [...section.b]],
        depth: this.views.sectionDepth() / 2,
        clouds: cloud ? [cloud.id] : [],
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
