import { ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, viewChild } from '@angular/core';
import { CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import type { GroundDoubtResource } from '@pampero/contract';
import { formatNumber, formatShare, shortUnit } from '../shared/format';
import { WorkbenchStore } from '../workbench/workbench-store';
import { DoubtStore, MENDS } from './doubt-store';

const NAMES: Readonly<Record<GroundDoubtResource['kind'], string>> = {
  spike: 'Spike',
  pit: 'Pit',
  hole: 'Hole',
  roof: 'Stands like a roof',
  step: 'Abrupt step',
  thin: 'Thin support',
};

/** The places where ground is most likely wrong: walked with one key, accepted or mended with one key. */
@Component({
  selector: 'pam-doubt-queue',
  imports: [MatButtonModule, MatIconModule, ScrollingModule],
  templateUrl: './doubt-queue.component.html',
  styleUrl: './doubt-queue.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { '(document:keydown)': 'keyed($event)' },
})
export class DoubtQueueComponent {
  protected readonly doubts = inject(DoubtStore);
  private readonly store = inject(WorkbenchStore);
  private readonly viewport = viewChild(CdkVirtualScrollViewport);
  protected readonly mends = MENDS;
  protected readonly rows = computed(() =>
    (this.doubts.rows() ?? []).map((doubt) => ({ doubt, name: NAMES[doubt.kind], says: this.saysOf(doubt) })),
  );

  constructor() {
    this.doubts.isOpen.set(true);
    inject(DestroyRef).onDestroy(() => this.doubts.isOpen.set(false));
  }

  private saysOf({ kind, size, width }: GroundDoubtResource): string {
    const unit = shortUnit(this.store.unit());
    const length = (value: number): string => `${formatNumber(value, value < 10 ? 2 : 0)} ${unit}`;
    switch (kind) {
      case 'spike':
        return `${length(size)} over its neighbours`;
      case 'pit':
        return `${length(size)} under its neighbours`;
      case 'hole':
        return `${length(size)} wide without ground`;
      case 'roof':
        return `${length(size)} over what lies about it, ${length(width)} across`;
      case 'step':
        return `of ${length(size)}, ${length(width)} long`;
      case 'thin':
        return `${formatShare(size)} of the points are ground`;
    }
  }

  protected keyed(event: KeyboardEvent): void {
    const { target } = event;
    if (event.ctrlKey || event.metaKey || event.altKey || !this.doubts.rows()) return;
    if (target instanceof HTMLElement && target.closest('input, textarea, mat-select, [role="dialog"], [role="menu"]'))
      return;
    if (event.key === '.') this.doubts.go(1);
    else if (event.key === ',') this.doubts.go(-1);
    else if (event.key === 'a') this.doubts.accept();
    else if (event.key === 'd') this.doubts.mend();
    else return;
    event.preventDefault();
    this.viewport()?.scrollToIndex(Math.max(0, this.doubts.currentNumber() - 3));
  }
}
