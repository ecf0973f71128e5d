import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { GROUND } from '@pampero/core/cloud';
import { numberPoints, thinCloud } from '@pampero/contract';
import { FactsComponent } from '../../shared/facts.component';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { formatFigure } from '@pampero/contract';
import { JobStore } from '../../state/job-store';
import { OperationFormComponent } from '../../sheets/operation-form.component';
import { SheetPartComponent } from '../../sheets/sheet-part.component';
import { SpotTableComponent } from './spot-table.component';

/** Thin: how few points say the same. */
@Component({
  selector: 'pam-thin-sheet',
  imports: [FactsComponent, OperationFormComponent, SheetPartComponent, SpotTableComponent],
  template: `
    <div class="figures">
      <div>
        <span class="num">{{ figures().all }}</span><span>points</span>
      </div>
      <div>
        <span class="num">{{ figures().ground }}</span><span>ground</span>
      </div>
      <div>
        <span class="num">{{ figures().spacing }}</span><span>ground spacing</span>
      </div>
    </div>
    <pam-sheet-part heading="Thin" name="thin" [open]="true">
      <p class="soft">{{ operation.does }}</p>
      <pam-operation-form [operation]="operation" [blocked]="blocked()" />
      <p class="soft">
        To see withheld points, turn on <i>show withheld points</i> under the colours. Select them to restore them.
      </p>
    </pam-sheet-part>
    @if (last(); as run) {
      <pam-sheet-part heading="Result of thinning" name="thinned" [open]="true">
        <pam-facts [facts]="run" data-testid="thinning-result" />
      </pam-sheet-part>
    }
    <pam-sheet-part heading="Numbered points" name="spots" [open]="true">
      <p class="soft">{{ numbering.does }} They leave in Deliver.</p>
      <pam-operation-form [operation]="numbering" [blocked]="blocked()" />
      <pam-spot-table />
    </pam-sheet-part>
  `,
  styleUrl: '../../sheets/sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ThinSheetComponent {
  private readonly store = inject(JobStore);
  protected readonly operation = thinCloud;
  protected readonly numbering = numberPoints;
  protected readonly blocked = computed(() =>
    this.store.clouds().length === 0 ? 'There is no cloud yet. Import one in Intake.' : '',
  );

  /** Before and after of the last thinning. */
  protected readonly last = computed(() => {
    const entries = this.store.history()?.entries ?? [];
    const done = entries.filter(({ operation, state }) => operation === 'thin-cloud' && state === 'done');
    const newest = done.reduce((a, b) => (a === undefined || b.id > a.id ? b : a), done[0]);
    return newest?.figures.map((figure) => ({
      label: figure.label,
      value: formatFigure(figure, this.store.unit()),
    }));
  });

  protected readonly figures = computed(() => {
    const ground = this.store.classCounts().get(GROUND) ?? 0;
    const area = this.store
      .clouds()
      .reduce((sum, { bounds: { min, max } }) => sum + (max[0] - min[0]) * (max[1] - min[1]), 0);
    return {
      all: formatCount(this.store.totalPoints()),
      ground: formatCount(ground),
      spacing: ground > 0 ? `${formatNumber(Math.sqrt(area / ground), 2)} ${shortUnit(this.store.unit())}` : '–',
    };
  });
}
