import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { colourFromPhotographs, describeProduct, importPhotographs } from '@pampero/contract';
import { formatNumber, GAP } from '@pampero/core/wording';
import { OperationFormComponent } from '../../sheets/operation-form.component';
import { SheetPartComponent } from '../../sheets/sheet-part.component';
import { shortUnit } from '../../shared/format';
import { JobStore } from '../../state/job-store';
import { layerKey, LayerStore } from '../../state/layer-store';
import { packPhotographs } from './pack-photographs';

/** Photographs with the places they were taken from: brought in, shown where they stood, and the cloud coloured from them. */
@Component({
  selector: 'pam-photograph-panel',
  imports: [MatButtonModule, MatIconModule, OperationFormComponent, SheetPartComponent],
  template: `
    <pam-sheet-part heading="Photographs" name="photographs" [aside]="all().length > 0 ? '' + all().length : ''">
      @for (one of all(); track one.id) {
        <div class="picture" [attr.data-testid]="'photographs-' + one.id">
          <div class="head">
            <button
              mat-icon-button
              [attr.aria-pressed]="one.isShown"
              [attr.aria-label]="(one.isShown ? 'Hide ' : 'Show ') + one.name"
              (click)="layers.setShown(one.key, !one.isShown)"
            >
              <mat-icon [svgIcon]="one.isShown ? 'shown' : 'hidden'" />
            </button>
            <span class="name">{{ one.name }}</span>
          </div>
          <p class="soft">{{ one.size }}</p>
          @for (remark of one.facts.remarks; track remark) {
            <div class="notice">{{ remark }}</div>
          }
        </div>
      }
      @if (all().length > 0) {
        <h4>Colour the cloud</h4>
        <p class="soft">{{ colouring.does }}</p>
        <pam-operation-form [operation]="colouring" [blocked]="needsCloud()" />
        <h4>Import more</h4>
      }
      <p class="soft">
        Choose all photographs together with the list of where each was taken and how the camera was turned (.csv or
        .txt), or one zip file of them.
      </p>
      <pam-operation-form [operation]="importing" [packs]="pack" />
    </pam-sheet-part>
  `,
  styleUrls: ['../../sheets/sheet.scss', './picture-panel.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PhotographPanelComponent {
  private readonly store = inject(JobStore);
  protected readonly layers = inject(LayerStore);
  protected readonly importing = importPhotographs;
  protected readonly colouring = colourFromPhotographs;
  protected readonly pack = packPhotographs;

  protected readonly all = computed(() =>
    this.store.of('photographs').map((product) => {
      const key = layerKey('photographs', product.id);
      const unit = this.store.unit();
      const { lowest, highest } = product.facts;
      const heights = `${formatNumber(lowest, 0)} to ${formatNumber(highest, 0)}${GAP}${shortUnit(unit)}`;
      return {
        ...product,
        key,
        isShown: this.layers.isShown(key),
        size: `${describeProduct(product, unit)}, taken from elevations of ${heights}`,
      };
    }),
  );
  protected readonly needsCloud = computed(() => (this.store.clouds().length === 0 ? 'Import a cloud first.' : ''));
}
