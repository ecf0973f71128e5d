import { ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, DestroyRef, inject, viewChild } from '@angular/core';
import { CdkVirtualScrollViewport } from '@angular/cdk/scrolling';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import type { SuspectAreaResource } from '@pampero/contract';
import { formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { formatShare } from '@pampero/contract';
import { KeyTable, type Key } from '../../shared/key-table';
import { JobStore } from '../../state/job-store';
import { SuspectStore, FIXES } from './suspect-store';

const NAMES: Readonly<Record<SuspectAreaResource['kind'], string>> = {
  spike: 'Spike',
  pit: 'Pit',
  hole: 'Hole',
  roof: 'Stands like a roof',
  step: 'Abrupt step',
  thin: 'Thin support',
};

/** The places where ground is most likely wrong: walked with one key, accepted or fixed with one key. */
@Component({
  selector: 'pam-suspect-queue',
  imports: [MatButtonModule, MatIconModule, ScrollingModule],
  templateUrl: './suspect-queue.component.html',
  styleUrls: ['../../sheets/queue.scss', './suspect-queue.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SuspectQueueComponent {
  protected readonly suspects = inject(SuspectStore);
  private readonly store = inject(JobStore);
  private readonly viewport = viewChild(CdkVirtualScrollViewport);
  protected readonly fixes = FIXES;
  protected readonly rows = computed(() =>
    (this.suspects.rows() ?? []).map((suspect) => ({ suspect, name: NAMES[suspect.kind], says: this.saysOf(suspect) })),
  );

  constructor() {
    inject(KeyTable).add(this.keys(), { first: true });
    this.suspects.isOpen.set(true);
    inject(DestroyRef).onDestroy(() => this.suspects.isOpen.set(false));
  }

  private saysOf({ kind, size, width }: SuspectAreaResource): string {
    const unit = shortUnit(this.store.unit());
    const length = (value: number): string => `${formatNumber(value, value < 10 ? 2 : 0)} ${unit}`;
    switch (kind) {
      case 'spike':
        return `${length(size)} over the land about it`;
      case 'pit':
        return `${length(size)} under the land about it`;
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

  private keys(): Key[] {
    const { suspects } = this;
    const when = (): boolean => suspects.rows() !== undefined;
    const key = (press: string, does: string, act: () => void): Key => ({
      press: [press],
      shown: press.toUpperCase(),
      does,
      when,
      run: () => {
        act();
        this.viewport()?.scrollToIndex(Math.max(0, suspects.currentNumber() - 3));
      },
    });
    return [
      key('.', 'In Classify: to the next suspect area of the ground', () => suspects.go(1)),
      key(',', '… and back to the one before', () => suspects.go(-1)),
      key('a', 'In Classify: this area is right', () => suspects.accept()),
      key('d', 'In Classify: fix this area', () => suspects.fix()),
    ];
  }
}
