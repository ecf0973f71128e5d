import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { layFlat, maskByColour, useMask } from '@pampero/contract';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { OperationFormComponent } from '../../sheets/operation-form.component';
import { JobStore } from '../../state/job-store';
import { ViewStore } from '../../state/view-store';
import { MaskStore, type MaskMode } from './mask-store';

const MODES = [
  { id: 'pick', label: 'Pick places' },
  { id: 'add', label: 'Paint on' },
  { id: 'remove', label: 'Paint off' },
] as const satisfies readonly { readonly id: MaskMode; readonly label: string }[];

/** A mask is picked and painted in Plan, seen as it becomes, made, and used on points. */
@Component({
  selector: 'pam-mask-panel',
  imports: [MatButtonModule, OperationFormComponent],
  template: `
    <p class="soft">{{ making.does }}</p>
    @if (store.of('picture').length === 0) {
      <p class="soft">Import a picture in Intake, or draw one of the cloud in Deliver.</p>
    } @else {
      <div class="act">
        @for (mode of modes; track mode.id) {
          <button
            mat-stroked-button
            type="button"
            [class.on]="isOn(mode.id)"
            [attr.aria-pressed]="isOn(mode.id)"
            [attr.data-testid]="'mask-' + mode.id"
            (click)="toggle(mode.id)"
          >
            {{ mode.label }}
          </button>
        }
        @if (!mask.isEmpty()) {
          <button mat-button type="button" (click)="mask.clear()">Clear</button>
        }
      </div>
      <p class="soft" aria-live="polite" data-testid="mask-preview">{{ says() }}</p>
      <pam-operation-form [operation]="making" [extra]="mask.given()" (changed)="mask.values.set($event)" />
      @if (store.of('mask').length > 0) {
        <h4>Use a mask</h4>
        <p class="soft">{{ using.does }}</p>
        <pam-operation-form
          [operation]="using"
          [blocked]="store.clouds().length === 0 ? 'Import a cloud first.' : ''"
        />
        <h4>Lay its points flat</h4>
        <p class="soft">{{ flattening.does }}</p>
        <pam-operation-form
          [operation]="flattening"
          [blocked]="store.clouds().length === 0 ? 'Import a cloud first.' : ''"
        />
      }
    }
  `,
  styles: `
    .act {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
      margin: 8px 0 4px;
    }
    .on {
      background: var(--accent);
      color: #fff;
    }
    h4 {
      margin: 18px 0 4px;
    }
    .soft {
      margin: 4px 0 8px;
      color: var(--ink-2);
      font-size: 12.5px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class MaskPanelComponent {
  protected readonly store = inject(JobStore);
  protected readonly mask = inject(MaskStore);
  private readonly views = inject(ViewStore);
  protected readonly modes = MODES;
  protected readonly making = maskByColour;
  protected readonly using = useMask;
  protected readonly flattening = layFlat;

  protected readonly says = computed(() => {
    const fault = this.mask.fault();
    if (fault) return fault;
    const preview = this.mask.preview();
    if (!preview)
      return this.mask.isEmpty()
        ? 'Pick places in Plan that look as the mask should.'
        : 'Choose a tool above to see the mask again.';
    const { area, pieces, tolerance } = preview;
    return `In view: ${formatNumber(area, 0)} ${shortUnit(this.store.unit())}² in ${formatCounted(pieces, 'piece')}. Colour tolerance ${formatNumber(tolerance, 1)}.`;
  });

  protected isOn(mode: MaskMode): boolean {
    return this.views.tool() === 'mask' && this.mask.mode() === mode;
  }

  protected toggle(mode: MaskMode): void {
    if (this.isOn(mode)) this.views.tool.set('look');
    else this.mask.take(mode);
  }
}
