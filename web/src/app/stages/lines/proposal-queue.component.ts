import { CdkVirtualScrollViewport, ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, inject, viewChild } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { formatShare } from '@pampero/contract';
import { KeyTable, type Key } from '../../shared/key-table';
import { JobStore } from '../../state/job-store';
import { ProposalStore } from './proposal-store';

/** Lines that were found, to be judged one by one. */
@Component({
  selector: 'pam-proposal-queue',
  imports: [MatButtonModule, ScrollingModule],
  template: `
    @if (proposals.set(); as set) {
      <div class="head">
        <span data-testid="proposal-count"
          ><b class="num">{{ proposals.waiting().length }}</b> of {{ set.facts.proposed }} to judge</span
        >
        <button
          mat-button
          type="button"
          [disabled]="proposals.waiting().length === 0"
          (click)="proposals.judge('accept', all())"
          data-testid="accept-all"
        >
          Accept all
        </button>
      </div>
      @if (set.staleBecause) {
        <p class="soft">Stale. {{ set.staleBecause }}</p>
      }
      @if (rows().length > 0) {
        <cdk-virtual-scroll-viewport itemSize="38" class="list" role="list">
          <button
            *cdkVirtualFor="let row of rows()"
            type="button"
            class="row"
            role="listitem"
            [class.current]="row.number === proposals.current()"
            [attr.aria-current]="row.number === proposals.current()"
            data-testid="proposal"
            (click)="proposals.show(row.number)"
          >
            <span class="words"
              >{{ row.name }}<small>{{ row.says }}</small></span
            >
          </button>
        </cdk-virtual-scroll-viewport>
        <div class="keys">
          <button mat-button type="button" (click)="proposals.go(-1)">Back <kbd>,</kbd></button>
          <button mat-button type="button" (click)="proposals.go(1)" data-testid="next-proposal">
            Next <kbd>.</kbd>
          </button>
          <button
            mat-button
            type="button"
            (click)="proposals.judge('refuse')"
            [disabled]="proposals.current() === undefined"
            data-testid="refuse-proposal"
          >
            Refuse <kbd>D</kbd>
          </button>
          <button
            mat-flat-button
            type="button"
            (click)="proposals.judge('accept')"
            [disabled]="proposals.current() === undefined"
            data-testid="accept-proposal"
          >
            Accept <kbd>A</kbd>
          </button>
        </div>
      } @else {
        <p class="soft">All judged.</p>
      }
    }
  `,
  styleUrl: '../../sheets/queue.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ProposalQueueComponent {
  protected readonly proposals = inject(ProposalStore);
  private readonly store = inject(JobStore);
  private readonly viewport = viewChild(CdkVirtualScrollViewport);

  protected readonly all = computed(() => this.proposals.waiting().map(({ number }) => number));
  protected readonly rows = computed(() => {
    const unit = shortUnit(this.store.unit());
    return this.proposals.waiting().map((proposal) => {
      const { number, length, agree, residual, bridged } = proposal;
      const gaps = bridged.length === 0 ? '' : `, ${bridged.length} ${bridged.length === 1 ? 'gap' : 'gaps'}`;
      return {
        number,
        name: `${formatNumber(length, 1)} ${unit}, ${this.proposals.codesOf(proposal).join(' and ')}`,
        says: `${formatShare(agree)} of the profiles agree, points ${formatNumber(residual, 3)} ${unit} off${gaps}`,
      };
    });
  });

  constructor() {
    inject(KeyTable).add(this.keys(), { first: true });
  }

  private keys(): Key[] {
    const { proposals } = this;
    const key = (
      press: string,
      does: string,
      act: () => void,
      when = (): boolean => proposals.waiting().length > 0,
    ): Key => ({
      press: [press],
      shown: press.toUpperCase(),
      does,
      when,
      run: () => {
        act();
        const at = proposals.waiting().findIndex(({ number }) => number === proposals.current());
        this.viewport()?.scrollToIndex(Math.max(0, at - 3));
      },
    });
    const hasCurrent = (): boolean => proposals.current() !== undefined && proposals.waiting().length > 0;
    return [
      key('.', 'In Lines: to the next proposed line', () => proposals.go(1)),
      key(',', '… and back to the one before', () => proposals.go(-1)),
      key('a', 'In Lines: accept this proposed line', () => proposals.judge('accept'), hasCurrent),
      key('d', 'In Lines: refuse this proposed line', () => proposals.judge('refuse'), hasCurrent),
    ];
  }
}
