import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { fitToTargets } from '@pampero/contract';
import { applySimilarity, fitTargets, type TargetFit } from '@pampero/core/strips';
import { formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import type { Values } from '../../sheets/form-values';
import { OperationFormComponent } from '../../sheets/operation-form.component';
import { JobStore } from '../../state/job-store';
import { TargetStore } from './target-store';

/** Targets picked in the cloud against their surveyed places: what is left of each is seen before anything moves. */
@Component({
  selector: 'pam-targets',
  imports: [MatButtonModule, OperationFormComponent],
  template: `
    <p class="soft">{{ operation.does }}</p>
    <div class="table" tabindex="0" role="region" aria-label="Targets">
      <table>
        <thead>
          <tr>
            <th>Target</th>
            <th></th>
            <th>left over</th>
            <th>east</th>
            <th>north</th>
            <th>up</th>
          </tr>
        </thead>
        <tbody>
          @for (row of rows(); track row.number) {
            <tr [class.chosen]="row.isWaiting">
              <td>{{ row.number }}{{ row.isCheck ? ' (check)' : '' }}</td>
              <td>
                <button
                  type="button"
                  class="plain-button"
                  [attr.aria-label]="(row.isPicked ? 'Drop ' : 'Pick ') + row.number"
                  [attr.data-testid]="'target-' + row.number"
                  (click)="row.isPicked ? targets.drop(row.number) : targets.pick(row.number)"
                >
                  {{ row.isPicked ? 'drop' : row.isWaiting ? 'click it' : 'pick' }}
                </button>
              </td>
              <td class="num">{{ row.left }}</td>
              @for (value of row.off; track $index) {
                <td class="num">{{ value }}</td>
              }
            </tr>
          }
        </tbody>
      </table>
    </div>
    @if (verdict()) {
      <p class="soft" data-testid="targets-verdict">{{ verdict() }}</p>
    }
    <pam-operation-form
      [operation]="operation"
      [extra]="extra()"
      [blocked]="blocked()"
      (changed)="values.set($event)"
    />
  `,
  styleUrls: ['../../sheets/sheet.scss', './align-table.scss'],
  styles: `
    button {
      color: var(--accent);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TargetsComponent {
  protected readonly targets = inject(TargetStore);
  private readonly store = inject(JobStore);
  protected readonly operation = fitToTargets;
  protected readonly values = signal<Values>({});

  private readonly unit = computed(() => shortUnit(this.store.unit()));
  private readonly pairs = computed(() =>
    this.targets.surveyed().flatMap(({ number, role, easting, northing, elevation }) => {
      const at = this.targets.picked().get(number);
      return at ? [{ number, role, at, surveyed: [easting, northing, elevation] as const }] : [];
    }),
  );
  protected readonly extra = computed(() => ({
    targets: this.pairs().map(({ number, at }) => ({ number, at: [...at] })),
  }));

  /** The fit as it would be, or why there is none yet. */
  private readonly fitted = computed(() => {
    const used = this.pairs().filter(({ role }) => role === 'control');
    if (used.length === 0) return undefined;
    try {
      const by = (this.values()['by'] as TargetFit | undefined) ?? 'shift';
      return {
        fit: fitTargets(
          used.map(({ at }) => at),
          used.map(({ surveyed }) => surveyed),
          by,
        ),
      };
    } catch (error) {
      return { fault: (error as Error).message };
    }
  });
  private readonly fit = computed(() => {
    const fitted = this.fitted();
    return fitted && 'fit' in fitted ? fitted.fit : undefined;
  });

  protected readonly rows = computed(() => {
    const off = new Map(this.pairs().map((pair) => [pair.number, pair]));
    const signed = (value: number): string => `${value > 0 ? '+' : ''}${formatNumber(value, 3)}`;
    return this.targets.surveyed().map(({ number, role }) => {
      const pair = off.get(number);
      const fit = this.fit();
      const left = pair && fit && applySimilarity(fit, pair.at).map((value, k) => value - pair.surveyed[k]!);
      return {
        number,
        isCheck: role === 'check',
        isPicked: pair !== undefined,
        isWaiting: this.targets.waiting() === number,
        off: [0, 1, 2].map((axis) => (pair ? signed(pair.at[axis]! - pair.surveyed[axis]!) : '')),
        left: left ? formatNumber(Math.hypot(...left), 3) : '',
      };
    });
  });

  protected readonly verdict = computed(() => {
    const fit = this.fit();
    const kept = this.pairs().filter(({ role }) => role === 'check');
    if (!fit) return '';
    const squares = kept.map(({ at, surveyed }) =>
      applySimilarity(fit, at).reduce((sum, value, axis) => sum + (value - surveyed[axis]!) ** 2, 0),
    );
    const atKept =
      kept.length === 0
        ? 'Pick check points too: they judge the result.'
        : `At the ${kept.length} kept out: ${formatNumber(Math.sqrt(squares.reduce((a, b) => a + b, 0) / kept.length), 3)} ${this.unit()}.`;
    return `What is left at the targets used: ${formatNumber(fit.rms, 3)} ${this.unit()}. ${atKept}`;
  });
  protected readonly blocked = computed(() => {
    if (this.targets.surveyed().length === 0) return 'Import control points in Intake first.';
    const fitted = this.fitted();
    if (!fitted) return 'Pick a target in the cloud first.';
    return 'fault' in fitted ? (fitted.fault ?? '') : '';
  });
}
