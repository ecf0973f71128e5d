import { ChangeDetectionStrategy, Component, computed, inject, Injector } from '@angular/core';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import { MatTooltipModule } from '@angular/material/tooltip';
import { kindById, PRODUCT_KINDS } from '@pampero/contract';
import { formatCount } from '@pampero/core/wording';
import { formatShare } from '@pampero/contract';
import { JobStore } from '../state/job-store';
import { layerKey, layerOf, LayerStore, type LayerKey } from '../state/layer-store';
import { LineStore } from '../state/line-store';
import { LookStore } from '../state/look-store';
import { openHoldings } from '../sheets/holdings-dialog.component';
import { ClassDialogComponent } from './class-dialog.component';

interface Row {
  /** Of lines: the colour they are drawn in. */
  readonly colour: string | undefined;
  readonly key: LayerKey;
  readonly name: string;
  readonly count: string;
  readonly staleBecause: string | undefined;
  readonly isShown: boolean;
}

/** What the job holds and what of it is shown: clouds, classes with count and share, products that are layers. */
@Component({
  selector: 'pam-layers',
  imports: [MatIconModule, MatTooltipModule],
  templateUrl: './layers.component.html',
  styleUrl: './layers.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class LayersComponent {
  protected readonly store = inject(JobStore);
  protected readonly layers = inject(LayerStore);
  protected readonly look = inject(LookStore);
  private readonly lines = inject(LineStore);
  private readonly dialog = inject(MatDialog);
  private readonly injector = inject(Injector);
  protected readonly formatCount = formatCount;
  protected readonly formatShare = formatShare;

  private readonly clouds = computed(() =>
    this.store.clouds().map(({ id, name, pointCount }) => this.row(layerKey('cloud', id), name, pointCount)),
  );
  /** Files on their way in, each once. */
  protected readonly comingIn = computed(() => [...new Set(this.store.comingIn().map(({ name }) => name))]);
  protected readonly groups = computed(() =>
    [
      { title: 'Clouds', unit: 'points', rows: this.clouds() },
      ...PRODUCT_KINDS.map(({ id: kind, name }) => {
        const layer = kindById(kind)?.layer;
        return {
          title: name.many,
          unit: layer?.unit ?? '',
          rows: layer
            ? this.store
                .of(kind)
                .map((product) =>
                  this.row(layerOf(product), product.name, layer.count(product.facts), product.staleBecause),
                )
            : [],
        };
      }),
    ].filter((group) => group.rows.length > 0),
  );

  private row(key: LayerKey, name: string, count: number, staleBecause?: string): Row {
    const colour = key.startsWith('lines-') ? (this.lines.codeOf()(name)?.colour ?? undefined) : undefined;
    return { key, colour, name, count: formatCount(count), staleBecause, isShown: this.layers.isShown(key) };
  }

  protected editClasses(): void {
    this.dialog.open(ClassDialogComponent, {
      data: { store: this.store, look: this.look },
      width: '780px',
      maxWidth: '92vw',
    });
  }

  protected openHoldings(): void {
    openHoldings(this.dialog, this.injector);
  }

  protected toggle(key: LayerKey, isShown: boolean): void {
    this.layers.setShown(key, !isShown);
  }
}
