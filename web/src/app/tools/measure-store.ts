import { computed, inject, Injectable, signal } from '@angular/core';
import { angleAt, between, lineLength, planArea, type Place3 } from '@pampero/core/measuring';
import { formatNumber, GAP } from '@pampero/core/wording';
import { shortUnit } from '../shared/format';
import { DrawingLink } from '../viewer/drawing-link';
import { ViewCameras } from '../viewer/view-cameras';
import type { AreaAnswer } from '../drawing/viewer-questions';
import { JobStore } from '../state/job-store';

export type MeasureKind = 'distance' | 'area' | 'angle' | 'volume';
export const MEASURES: readonly { readonly id: MeasureKind; readonly name: string }[] = [
  { id: 'distance', name: 'Distance' },
  { id: 'area', name: 'Area' },
  { id: 'angle', name: 'Angle' },
  { id: 'volume', name: 'Volume' },
];

export interface MeasureRow {
  readonly label: string;
  readonly value: string;
}

/** Places that were clicked, and what lies between them. */
@Injectable()
export class MeasureStore {
  private readonly store = inject(JobStore);
  private readonly link = inject(DrawingLink);
  private readonly cameras = inject(ViewCameras);

  readonly kind = signal<MeasureKind>('distance');
  readonly places = signal<readonly Place3[]>([]);
  /** Ended: the next click begins anew. */
  readonly isEnded = signal(false);
  readonly level = signal<number | undefined>(undefined);
  private readonly onSurface = signal<AreaAnswer | undefined>(undefined);

  add(place: Place3): void {
    if (this.isEnded()) {
      this.places.set([]);
      this.level.set(undefined);
      this.isEnded.set(false);
    }
    this.places.update((places) => [...places, place]);
    if (this.kind() === 'angle' && this.places().length === 3) this.isEnded.set(true);
    this.askSurface();
  }

  /** Shows a measure that was kept. */
  show(kind: MeasureKind, places: readonly Place3[], level: number | undefined): void {
    this.kind.set(kind);
    this.places.set(places);
    this.level.set(level);
    this.isEnded.set(true);
    this.askSurface();
  }

  end(): void {
    this.isEnded.set(this.places().length > 0);
  }

  clear(): void {
    this.places.set([]);
    this.onSurface.set(undefined);
    this.isEnded.set(false);
  }

  setKind(kind: MeasureKind): void {
    this.kind.set(kind);
    this.askSurface();
  }

  setLevel(level: number): void {
    this.level.set(level);
    this.askSurface();
  }

  readonly usedLevel = computed(() => this.level() ?? Math.min(...this.places().map(([, , z]) => z)));

  readonly rows = computed<readonly MeasureRow[]>(() => {
    const places = this.places();
    const unit = shortUnit(this.store.unit());
    const length = (v: number): string => `${formatNumber(v, 3)}${GAP}${unit}`;
    const area = (v: number): string => `${formatNumber(v, v < 100 ? 2 : 1)}${GAP}${unit}²`;
    const volume = (v: number): string => `${formatNumber(v, 1)}${GAP}${unit}³`;
    switch (this.kind()) {
      case 'distance': {
        if (places.length < 2) return [];
        const last = between(places.at(-2)!, places.at(-1)!);
        const whole = lineLength(places);
        return [
          { label: 'Slope distance', value: length(last.slopeDistance) },
          { label: 'Plan distance', value: length(last.planDistance) },
          { label: 'Height difference', value: `${last.rise >= 0 ? '+' : ''}${length(last.rise)}` },
          { label: 'Grade', value: gradeText(last.grade, last.ratio, last.degrees) },
          ...(last.bearing === undefined ? [] : [{ label: 'Bearing', value: `${formatNumber(last.bearing, 3)}°` }]),
          ...(places.length > 2
            ? [
                { label: `Whole line, ${places.length - 1} pieces, slope`, value: length(whole.slope) },
                { label: 'Whole line, plan', value: length(whole.plan) },
              ]
            : []),
        ];
      }
      case 'area': {
        if (places.length < 3) return [];
        const surface = this.onSurface();
        return [
          { label: 'Area in plan', value: area(planArea(places)) },
          { label: 'Perimeter', value: length(lineLength([...places, places[0]!]).plan) },
          {
            label: 'On the surface',
            value: surface ? area(surface.slopeArea) : 'no surface shown there',
          },
        ];
      }
      case 'angle': {
        if (places.length < 3) return [];
        const angle = angleAt(places[0]!, places[1]!, places[2]!);
        return [
          { label: 'Angle in plan', value: `${formatNumber(angle.plan, 3)}°` },
          { label: 'Angle in space', value: `${formatNumber(angle.space, 3)}°` },
        ];
      }
      case 'volume': {
        if (places.length < 3) return [];
        const surface = this.onSurface();
        if (!surface) return [{ label: 'Volume', value: 'no surface shown there' }];
        return [
          { label: 'Above the level', value: volume(surface.over) },
          { label: 'Below the level', value: volume(surface.under) },
          { label: 'Above minus below', value: volume(surface.over - surface.under) },
          { label: 'Area in plan', value: area(surface.planArea) },
        ];
      }
    }
  });

  /** All that was measured, as text for elsewhere. */
  text(): string {
    const places = this.places().map((place) => place.map((v) => v.toFixed(3)).join('\t'));
    return [...this.rows().map(({ label, value }) => `${label}\t${value.replaceAll(GAP, ' ')}`), ...places].join('\n');
  }

  private askSurface(): void {
    const places = this.places();
    const kind = this.kind();
    if ((kind !== 'area' && kind !== 'volume') || places.length < 3) {
      this.onSurface.set(undefined);
      return;
    }
    const [ox, oy] = this.cameras.origin();
    void this.link
      .ask('area', { corners: places.map(([e, n]) => [e - ox, n - oy] as const), level: this.usedLevel() })
      .then((answer) => this.onSurface.set(answer));
  }
}

/** "2.50 % , 1 : 40, 1.43°", as each is read on site. */
export function gradeText(grade: number, ratio: number, degrees: number): string {
  if (!Number.isFinite(grade)) return 'straight up';
  const percent = `${formatNumber(grade * 100, 2)}${GAP}%`;
  const slope = Number.isFinite(ratio) ? `1 : ${formatNumber(ratio, ratio < 10 ? 2 : 1)}` : 'level';
  return `${percent}, ${slope}, ${formatNumber(degrees, 2)}°`;
}
