import { ChangeDetectionStrategy, Component, computed, effect, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatSelectModule } from '@angular/material/select';
import { hexOf, tintColour, type RampId } from '@pampero/core/tints';
import { formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { NameDialogComponent } from '../../shared/name-dialog.component';
import { DrawingLink } from '../../viewer/drawing-link';
import { dragHandle } from '../../viewer/drag-handle';
import { JobStore } from '../../state/job-store';
import { LayerStore } from '../../state/layer-store';
import { TintStore } from '../../viewer/tint-store';
import { readTyped } from '../../shared/typed-field';

const WIDTH = 280;
const HEIGHT = 56;

/** How the shown surfaces are coloured: by what, with which ramp, in bands or not, its stops over the spread of the values. */
@Component({
  selector: 'pam-tint-panel',
  imports: [FormsModule, MatButtonModule, MatSelectModule],
  templateUrl: './tint-panel.component.html',
  styleUrl: './tint-panel.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TintPanelComponent {
  protected readonly tints = inject(TintStore);
  protected readonly store = inject(JobStore);
  protected readonly layers = inject(LayerStore);
  private readonly link = inject(DrawingLink);
  private readonly dialog = inject(MatDialog);
  protected readonly width = WIDTH;
  protected readonly height = HEIGHT;
  private readonly spread = signal<{ low: number; high: number; counts: readonly number[] } | undefined>(undefined);

  protected readonly unit = computed(() => (this.tints.look().by === 'slope' ? '°' : shortUnit(this.store.unit())));

  /** Interval and base of the newest contours, so that bands can be theirs. */
  protected readonly contours = computed(() => {
    const set = this.store.contours().at(-1);
    return set && { interval: Number(set.parameters['interval']), base: Number(set.parameters['base'] ?? 0) };
  });

  protected readonly chart = computed(() => {
    const stops = this.tints.stops();
    const spread = this.spread();
    const [first, last] = [stops[0]!.value, stops.at(-1)!.value];
    const from = Math.min(spread?.low ?? first, first);
    const to = Math.max(spread?.high ?? last, last, from + 1e-6);
    const x = (value: number): number => 6 + ((value - from) / (to - from)) * (WIDTH - 12);
    const most = Math.max(1, ...(spread?.counts ?? []));
    const step = spread ? (spread.high - spread.low) / spread.counts.length : 0;
    const tint = this.tints.tint();
    const bars = (spread?.counts ?? []).map((count, i) => ({
      x: x(spread!.low + i * step),
      width: Math.max(0.5, x(spread!.low + (i + 1) * step) - x(spread!.low + i * step)),
      height: Math.sqrt(count / most) * HEIGHT,
      colour: hexOf(tintColour(tint, spread!.low + (i + 0.5) * step)),
    }));
    return {
      bars,
      stops: stops.map((stop, index) => ({ ...stop, index, x: x(stop.value) })),
      perPixel: (to - from) / (WIDTH - 12),
    };
  });

  constructor() {
    // Asked once the surface in its new colours has come.
    effect((onCleanup) => {
      this.tints.look();
      this.layers.shownSurfaces();
      this.layers.shownGrid();
      const timer = setTimeout(() => void this.link.ask('tinted', {}).then((spread) => this.spread.set(spread)), 600);
      onCleanup(() => clearTimeout(timer));
    });
  }

  protected text(value: number): string {
    return formatNumber(value, this.tints.look().by === 'slope' ? 0 : 2);
  }

  protected colourBy(by: string): void {
    this.tints.colourBy(by === 'elevation' || by === 'slope' || by === 'pictures' ? by : Number(by));
  }

  protected useRamp(value: string): void {
    const own = this.tints.own().find(({ id }) => `own-${id}` === value);
    if (own) this.tints.useStops(own.stops);
    else this.tints.useRamp(value as RampId);
  }

  protected drag(event: PointerEvent, index: number): void {
    const start = this.tints.stops()[index]!.value;
    const { perPixel } = this.chart();
    const stops = this.tints.stops();
    // Kept between its neighbours, so that the order stays.
    const low = stops[index - 1]?.value ?? -Infinity;
    const high = stops[index + 1]?.value ?? Infinity;
    dragHandle(event, (dx) => {
      const value = Math.max(low + perPixel, Math.min(high - perPixel, start + dx * perPixel));
      this.set(index, { value });
    });
  }

  protected typed(index: number, field: HTMLInputElement): void {
    const read = this.read(field, 'value');
    if (read !== undefined) this.set(index, { value: read });
    field.value = this.text(this.tints.stops()[index]!.value);
  }

  protected set(index: number, change: { value?: number; colour?: string }): void {
    this.tints.useStops(this.tints.stops().map((stop, k) => (k === index ? { ...stop, ...change } : stop)));
  }

  protected add(event: MouseEvent): void {
    const stops = this.tints.stops();
    const box = (event.currentTarget as Element).getBoundingClientRect();
    const first = this.chart().stops[0]!;
    const value = first.value + (event.clientX - box.left - first.x) * this.chart().perPixel;
    const colour = hexOf(tintColour({ ...this.tints.tint(), band: 0 }, value));
    this.tints.useStops([...stops, { value, colour }]);
  }

  protected remove(index: number): void {
    const stops = this.tints.stops();
    if (stops.length > 2) this.tints.useStops(stops.filter((_, k) => k !== index));
  }

  protected setBand(field: HTMLInputElement): void {
    const refuse = (value: number): string | undefined => (value >= 0 ? undefined : 'It must not be less than 0.');
    const read = this.read(field, 'band height', refuse);
    if (read !== undefined) this.tints.useBands(read, this.contours()?.base ?? 0);
    field.value = String(this.tints.look().band);
  }

  private read(
    field: HTMLInputElement,
    name: string,
    refuse?: (value: number) => string | undefined,
  ): number | undefined {
    const isLength = this.tints.look().by !== 'slope';
    const read = readTyped(field.value, {
      name,
      ...(isLength && { unit: this.store.unit() }),
      ...(refuse && { refuse }),
    });
    if ('value' in read) return read.value;
    this.store.say(read.fault);
    return undefined;
  }

  protected keep(): void {
    this.dialog
      .open<NameDialogComponent, unknown, string>(NameDialogComponent, {
        data: { title: 'Save these colours', label: 'Name', action: 'Keep' },
      })
      .afterClosed()
      .subscribe((name) => {
        if (name) this.tints.keep(name);
      });
  }
}
