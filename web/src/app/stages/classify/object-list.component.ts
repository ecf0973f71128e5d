import { ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { ObjectGroupResource } from '@pampero/contract';
import { metresPer } from '@pampero/core/geodesy';
import type { Selection } from '@pampero/core/selection';
import { catchError, EMPTY, finalize } from 'rxjs';
import { ApiClient } from '../../api/api-client';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { formatShare } from '@pampero/contract';
import { SelectionStore } from '../../tools/selection-store';
import { ViewCameras } from '../../viewer/view-cameras';
import { LookStore } from '../../state/look-store';
import { JobStore } from '../../state/job-store';
import { ViewStore } from '../../state/view-store';

/** What stands on the ground, thing by thing, the least sure first: shown and selected at a click, to be kept or set right. */
@Component({
  selector: 'pam-object-list',
  imports: [MatButtonModule, ScrollingModule],
  template: `
    <div class="head">
      @if (objects(); as list) {
        <span data-testid="object-count">{{ summary(list) }}</span>
      } @else {
        <span class="soft">Buildings, trees and wires one by one, the least certain first</span>
      }
      <button mat-stroked-button type="button" [disabled]="isLooking()" (click)="list()" data-testid="list-objects">
        {{ isLooking() ? 'Looking…' : objects() ? 'List again' : 'List them' }}
      </button>
    </div>
    @if (problem(); as problem) {
      <p class="notice" role="alert">{{ problem }}</p>
    }
    @if (rows().length > 0) {
      <cdk-virtual-scroll-viewport itemSize="38" class="list" role="list">
        <button
          *cdkVirtualFor="let row of rows()"
          type="button"
          class="row"
          role="listitem"
          data-testid="object"
          [class.current]="row.group === current()"
          (click)="show(row.group)"
        >
          <span class="mark" [style.background]="row.colour"></span>
          <span class="words"
            >{{ row.name }}<small>{{ row.says }}</small></span
          >
          <span class="num" title="How sure">{{ row.sure }}</span>
        </button>
      </cdk-virtual-scroll-viewport>
      <p class="soft">Click an object to select its points, then set another class by key.</p>
    }
  `,
  styleUrls: ['../../sheets/queue.scss', './suspect-queue.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ObjectListComponent {
  private readonly api = inject(ApiClient);
  private readonly store = inject(JobStore);
  private readonly views = inject(ViewStore);
  private readonly look = inject(LookStore);
  private readonly cameras = inject(ViewCameras);
  private readonly selection = inject(SelectionStore);
  protected readonly objects = signal<readonly ObjectGroupResource[] | undefined>(undefined);
  protected readonly current = signal<ObjectGroupResource | undefined>(undefined);
  protected readonly isLooking = signal(false);
  protected readonly problem = signal<string | undefined>(undefined);
  private cloudId = 0;

  protected readonly rows = computed(() => {
    const unit = shortUnit(this.store.unit());
    return (this.objects() ?? []).map((group) => ({
      group,
      name: this.look.className()(group.classCode),
      colour: this.look.classColour()(group.classCode),
      sure: formatShare(group.confidence),
      says: `${formatNumber(group.height, 1)} ${unit} high, ${formatNumber(group.area, 0)} ${unit}², ${formatCount(group.points)} points`,
    }));
  });

  protected summary(list: readonly ObjectGroupResource[]): string {
    const counts = new Map<number, number>();
    for (const { classCode } of list) counts.set(classCode, (counts.get(classCode) ?? 0) + 1);
    return (
      [...counts].map(([code, n]) => `${formatCount(n)} ${this.look.className()(code).toLowerCase()}`).join(', ') ||
      'There is nothing on the ground here.'
    );
  }

  protected list(): void {
    const cloud = this.store.clouds().at(-1);
    if (!cloud) return;
    this.cloudId = cloud.id;
    this.isLooking.set(true);
    this.problem.set(undefined);
    this.api
      .call('listObjects', { params: { jobId: this.store.jobId(), cloudId: cloud.id } })
      .pipe(
        catchError((error: unknown) => {
          this.problem.set(error instanceof Error ? error.message : String(error));
          return EMPTY;
        }),
        finalize(() => this.isLooking.set(false)),
      )
      .subscribe((objects) => this.objects.set(objects));
  }

  protected show(group: ObjectGroupResource): void {
    this.current.set(group);
    const metre = 1 / metresPer(this.store.unit());
    const length = Math.min(200 * metre, Math.max(20 * metre, 2 * group.width));
    this.views.sectionDepth.set(Math.min(8 * metre, Math.max(2 * metre, group.width / 3)));
    this.views.section.set({
      a: [group.easting - length / 2, group.northing],
      b: [group.easting + length / 2, group.northing],
    });
    // What stands on the ground with as much room above and below.
    this.cameras.frameSectionOn(group.elevation + group.height / 2, group.height);
    this.cameras.lookClose([group.easting, group.northing, group.elevation], length * 1.6);
    const visible = { hiddenClasses: [], withWithheld: false, clouds: [this.cloudId] };
    const steps: Selection = [
      { how: 'add', shape: { kind: 'boundary', corners: group.footprint, buffer: 0 }, visible },
      { how: 'keep', shape: { kind: 'classes', classes: [group.classCode] }, visible },
    ];
    this.selection.use(steps);
  }
}
