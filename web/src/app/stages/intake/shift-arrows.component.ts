import { ChangeDetectionStrategy, Component, computed, inject, input, resource } from '@angular/core';
import { tileShiftSchema, type ProductOf } from '@pampero/contract';
import { formatNumber, GAP } from '@pampero/core/wording';
import { firstValueFrom } from 'rxjs';
import { z } from 'zod';
import { ApiClient, jsonOf } from '../../api/api-client';
import { shortUnit } from '../../shared/format';
import { JobStore } from '../../state/job-store';

const [WIDTH, HEIGHT] = [292, 190];
/** Length that the mean shift is drawn with, pixels. */
const LONG = 26;

/** What a shift check found: an arrow a tile over the land, those that agree in full colour, and the figures in words. */
@Component({
  selector: 'pam-shift-arrows',
  templateUrl: './shift-arrows.component.html',
  styleUrl: './shift-arrows.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ShiftArrowsComponent {
  readonly check = input.required<ProductOf<'shift-check'>>();
  private readonly store = inject(JobStore);
  private readonly api = inject(ApiClient);
  protected readonly width = WIDTH;
  protected readonly height = HEIGHT;

  private readonly tiles = resource({
    params: () => ({ jobId: this.store.jobId(), productId: this.check().id }),
    loader: async ({ params }) =>
      jsonOf(await firstValueFrom(this.api.call('showProduct', { params })), z.array(tileShiftSchema)),
  });

  protected readonly words = computed(() => {
    const { facts } = this.check();
    const unit = shortUnit(this.store.unit());
    const length = (value: number): string => `${formatNumber(Math.abs(value), 2)}${GAP}${unit}`;
    if (facts.sureness === 'unknown') return { title: 'The shift cannot be told', text: capital(facts.because) };
    const sides = [
      `${length(facts.east)} ${facts.east < 0 ? 'west' : 'east'}`,
      `${length(facts.north)} ${facts.north < 0 ? 'south' : 'north'}`,
    ];
    const { turn, scale } = facts.similarity;
    return {
      title: `The picture lies ${sides.join(' and ')} of the cloud`,
      text: [
        `${facts.sureness === 'sure' ? 'Sure' : 'Doubtful'}: ${facts.because}`,
        ...(facts.standardError === null ? [] : [`uncertain by ${length(facts.standardError)}`]),
        ...(facts.spread === null ? [] : [`single tiles scatter by ${length(facts.spread)}`]),
        `turned by ${formatNumber((turn * 180) / Math.PI, 3)}°, scaled by ${formatNumber(scale, 5)}`,
        `held against the cloud’s ${facts.witness ?? 'points'}`,
      ].join('; '),
    };
  });

  protected readonly arrows = computed(() => {
    const tiles = this.tiles.value() ?? [];
    if (tiles.length === 0) return undefined;
    const [es, ns] = [tiles.map(({ e }) => e), tiles.map(({ n }) => n)];
    const [west, south] = [Math.min(...es), Math.min(...ns)];
    const span = Math.max((Math.max(...es) - west) / (WIDTH - 80), (Math.max(...ns) - south) / (HEIGHT - 60), 1e-9);
    const { east, north, cell } = this.check().facts;
    const long = LONG / Math.max(Math.hypot(east, north), 2 * cell);
    const places = tiles.map((tile, key) => {
      const [x, y] = [40 + (tile.e - west) / span, HEIGHT - 34 - (tile.n - south) / span];
      return { key, x, y, dx: tile.east * long, dy: -tile.north * long, agrees: tile.agrees };
    });
    // Those that do not agree are only dots: their arrows say nothing, and would hide the others.
    return {
      places,
      scale: { pixels: long * cell, of: `${formatNumber(cell, 2)}${GAP}${shortUnit(this.store.unit())}` },
    };
  });
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1) + '.';
}
