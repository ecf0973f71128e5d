import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import type { ControlLook } from '@pampero/contract';
import { POINT_ORDERS, type PointOrder } from '@pampero/core/formats/point-list';
import { formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { JobStore } from '../../state/job-store';
import { ControlStore } from '../../state/control-store';
import { LayerStore } from '../../state/layer-store';

/** Check against control: each surveyed point with the cloud's elevation there, and what the differences say together. */
@Component({
  selector: 'pam-control-look',
  imports: [FormsModule, MatButtonModule, MatIconModule],
  templateUrl: './control-look.component.html',
  styleUrl: './control-look.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ControlLookComponent {
  protected readonly store = inject(JobStore);
  protected readonly controls = inject(ControlStore);
  protected readonly layers = inject(LayerStore);
  protected readonly orders = POINT_ORDERS;
  protected readonly order = signal<PointOrder>('PNEZD');
  protected readonly role = signal<'control' | 'check'>('control');

  protected readonly look = this.controls.look;
  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly cloudName = computed(() => this.layers.shownClouds()[0]?.name ?? '');
  protected readonly figures = computed(() => {
    const pattern = this.look()?.pattern;
    const of = (value: number): string => `${value > 0 ? '+' : ''}${formatNumber(value, 3)}`;
    return (
      pattern && {
        mean: of(pattern.mean),
        rmse: formatNumber(pattern.rmse, 3),
        worst: of(pattern.worst),
        count: pattern.count,
      }
    );
  });
  protected readonly verdicts = computed(() => verdictsOf(this.look(), this.unit()));
  protected readonly rows = computed(() => {
    const points = this.look()?.points ?? [];
    const most = Math.max(1e-9, ...points.map((point) => Math.abs(point.difference ?? 0)));
    // The worst first: they are what a first look is for.
    return [...points]
      .sort((a, b) => Math.abs(b.difference ?? 0) - Math.abs(a.difference ?? 0))
      .map((point) => ({
        ...point,
        surveyed: formatNumber(point.elevation, 3),
        inCloud: point.cloudElevation === undefined ? '–' : formatNumber(point.cloudElevation, 3),
        off:
          point.difference === undefined
            ? 'no points near'
            : `${point.difference > 0 ? '+' : ''}${formatNumber(point.difference, 3)}`,
        left: point.difference === undefined ? 50 : 50 + Math.min(0, (point.difference / most) * 50),
        width: point.difference === undefined ? 0 : Math.abs(point.difference / most) * 50,
      }));
  });

  protected picked(input: HTMLInputElement): void {
    const file = input.files?.[0];
    input.value = '';
    if (file) this.store.startWithFile('import-control', file, { order: this.order(), role: this.role() });
  }
}

/** What the differences have in common, in words. */
function verdictsOf(look: ControlLook | undefined, unit: string): { isGood: boolean; text: string }[] {
  const pattern = look?.pattern;
  if (!pattern) return [];
  const verdicts: string[] = [];
  if (pattern.unitRatio === 'feet-as-metres')
    verdicts.push(
      'The cloud’s elevations are about 3.28 times the surveyed ones. One is in feet, the other in metres.',
    );
  if (pattern.unitRatio === 'metres-as-feet')
    verdicts.push(
      'The cloud’s elevations are about 0.305 times the surveyed ones. One is in metres, the other in feet.',
    );
  if (pattern.unitRatio === 'survey-foot')
    verdicts.push('Elevations differ by two millionths. One is in US survey feet, the other in international feet.');
  if (pattern.isTilted)
    verdicts.push(`The differences tilt: ${pattern.tilt.toFixed(3)} ${unit} from one side of the site to the other.`);
  if (pattern.isBowed)
    verdicts.push(
      `The cloud is ${pattern.bow > 0 ? 'domed' : 'bowled'}: its middle lies ${Math.abs(pattern.bow).toFixed(3)} ${unit} ${pattern.bow > 0 ? 'over' : 'under'} its edges.`,
    );
  if (verdicts.length === 0)
    return [
      {
        isGood: true,
        text: pattern.count < 6 ? 'Too few points to detect a tilt or a bow.' : 'No tilt, no bow, no mix-up of units.',
      },
    ];
  return verdicts.map((text) => ({ isGood: false, text }));
}
