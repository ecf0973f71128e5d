import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import type { Box } from '@pampero/core/selection';
import { formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../shared/format';
import { LookStore } from '../state/look-store';
import { JobStore } from '../state/job-store';
import { readTyped } from '../shared/typed-field';

const ENDS = [
  { name: 'west', axis: 0, end: 'min' },
  { name: 'east', axis: 0, end: 'max' },
  { name: 'south', axis: 1, end: 'min' },
  { name: 'north', axis: 1, end: 'max' },
  { name: 'lower', axis: 2, end: 'min' },
  { name: 'upper', axis: 2, end: 'max' },
] as const;
type End = (typeof ENDS)[number];

/** The faces of the focus box as figures, for those who type rather than drag. */
@Component({
  selector: 'pam-box-bar',
  template: `
    @if (look.box(); as box) {
      <div class="bar" role="region" aria-label="Focus box">
        <b>Box</b>
        @for (end of ends; track end.name) {
          <label
            >{{ end.name }}
            <input
              #field
              class="num"
              [value]="text(box, end)"
              [attr.data-testid]="'box-field-' + end.name"
              (change)="set(field, end)"
            />
          </label>
        }
        <span class="soft">{{ unit() }}</span>
      </div>
    }
  `,
  styles: `
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 10px;
      padding: 6px 11px;
      background: rgb(251 249 244 / 97%);
      border-radius: 6px;
      box-shadow: 0 2px 8px rgb(0 0 0 / 30%);
      font-size: 12.5px;
    }
    input {
      width: 104px;
      text-align: right;
      border: 1px solid var(--rule-strong);
      border-radius: 3px;
      background: #fff;
      padding: 1px 5px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class BoxBarComponent {
  protected readonly look = inject(LookStore);
  private readonly store = inject(JobStore);
  protected readonly ends = ENDS;
  protected readonly unit = computed(() => shortUnit(this.store.unit()));

  protected text(box: Box, { axis, end }: End): string {
    return formatNumber(box[end][axis], 2);
  }

  protected set(field: HTMLInputElement, { axis, end, name }: End): void {
    const box = this.look.box();
    if (!box) return;
    const other = box[end === 'min' ? 'max' : 'min'][axis];
    const read = readTyped(field.value, {
      name: `${name} face of the box`,
      unit: this.store.unit(),
      refuse: (value) =>
        (end === 'min' ? value < other : value > other)
          ? undefined
          : `It must be ${end === 'min' ? 'less' : 'more'} than ${formatNumber(other, 2)}.`,
    });
    if ('value' in read)
      this.look.box.set({
        ...box,
        [end]: box[end].map((v, k) => (k === axis ? read.value : v)) as unknown as Box['min'],
      });
    else this.store.say(read.fault);
    field.value = this.text(this.look.box()!, { axis, end, name } as End);
  }
}
