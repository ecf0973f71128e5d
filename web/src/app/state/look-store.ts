import { computed, inject, Injectable, signal } from '@angular/core';
import { className } from '@pampero/core/cloud';
import type { Box, Selection, Visible } from '@pampero/core/selection';
import { classColour } from '../drawing/colours';
import { isRamped } from '../drawing/point-values';
import type { RampId } from '@pampero/core/tints';
import { COLOUR_MODES, type ColourMode, type ValueSpread } from '../drawing/drawing-protocol';
import { JobStore } from './job-store';
import { LayerStore } from './layer-store';

export interface ModeFacts {
  readonly id: ColourMode;
  readonly name: string;
  readonly ramp: RampId;
  readonly decimals: number;
  /** What its figures are in: the job's length unit, another, or none. */
  readonly unit: 'length' | '°' | 's' | '';
}

const MODES: Readonly<Record<ColourMode, Omit<ModeFacts, 'id'>>> = {
  class: { name: 'Class', ramp: 'grey', decimals: 0, unit: '' },
  elevation: { name: 'Elevation', ramp: 'land', decimals: 2, unit: 'length' },
  intensity: { name: 'Intensity', ramp: 'grey', decimals: 0, unit: '' },
  colour: { name: 'Photo colour', ramp: 'grey', decimals: 0, unit: '' },
  returns: { name: 'Return', ramp: 'grey', decimals: 0, unit: '' },
  strip: { name: 'Strip', ramp: 'grey', decimals: 0, unit: '' },
  'gps-time': { name: 'GPS time', ramp: 'dusk', decimals: 1, unit: 's' },
  'scan-angle': { name: 'Scan angle', ramp: 'either-side', decimals: 1, unit: '°' },
  confidence: { name: 'Confidence', ramp: 'dusk', decimals: 2, unit: '' },
  greenness: { name: 'Greenness', ramp: 'land', decimals: 2, unit: '' },
  height: { name: 'Height over the surface', ramp: 'dusk', decimals: 2, unit: 'length' },
  difference: { name: 'Difference to the surface', ramp: 'either-side', decimals: 3, unit: 'length' },
};

export const MODE_FACTS: readonly ModeFacts[] = COLOUR_MODES.map((id) => ({ id, ...MODES[id] }));
export const modeFacts = (id: ColourMode): ModeFacts => ({ id, ...MODES[id] });

export interface ClassRow {
  readonly code: number;
  readonly name: string;
  readonly colour: string;
  readonly count: number;
  readonly share: number;
  readonly isShown: boolean;
}

/** How points look and which of them are shown: what is not shown cannot be selected either. */
@Injectable()
export class LookStore {
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);

  readonly mode = signal<ColourMode>('class');
  /** Ends of the ramp that the surveyor set; otherwise they come from the points. */
  readonly ranges = signal<Partial<Record<ColourMode, readonly [number, number]>>>({});
  readonly ramps = signal<Partial<Record<ColourMode, RampId>>>({});
  readonly spread = signal<ValueSpread | undefined>(undefined);
  /** Pixels; 0 leaves it to the density. */
  readonly pointSize = signal(0);
  readonly shading = signal(1);
  readonly detail = signal(1);
  readonly isDarkGround = signal(true);
  readonly hiddenClasses = signal<ReadonlySet<number>>(new Set());
  readonly showsWithheld = signal(false);
  readonly box = signal<Box | undefined>(undefined);
  /** Only what this selects is shown. */
  readonly focus = signal<Selection | undefined>(undefined);

  /** Every class there is, with how much of the job it is. */
  readonly classes = computed<readonly ClassRow[]>(() => {
    const total = Math.max(1, this.store.totalPoints());
    return [...this.store.classCounts()].map(([code, count]) => ({
      code,
      name: this.className()(code),
      colour: this.classColour()(code),
      count,
      share: count / total,
      isShown: !this.hiddenClasses().has(code),
    }));
  });

  /** Points that a search would find, to be ringed. */
  readonly ringed = signal<readonly (readonly [number, number, number])[]>([]);

  readonly isFocused = computed(() => this.box() !== undefined || this.focus() !== undefined);

  /** Modes that the job's clouds have something to show for. */
  readonly modes = computed(() => {
    const clouds = this.store.clouds();
    const has = (name: 'rgb' | 'gpsTime'): boolean => clouds.some((cloud) => cloud.columns[name]);
    const hasSurface = this.layers.shownSurface() !== undefined;
    return MODE_FACTS.filter(
      ({ id }) =>
        ((id !== 'colour' && id !== 'greenness') || has('rgb')) &&
        (id !== 'confidence' || clouds.some((cloud) => cloud.hasConfidence)) &&
        (id !== 'gps-time' || has('gpsTime')) &&
        ((id !== 'height' && id !== 'difference') || hasSurface),
    );
  });

  readonly ramp = computed<RampId>(() => this.ramps()[this.mode()] ?? modeFacts(this.mode()).ramp);

  readonly range = computed<readonly [number, number]>(() => {
    const mode = this.mode();
    const own = this.ranges()[mode];
    if (own) return own;
    const clouds = this.store.clouds();
    if (mode === 'elevation' || mode === 'intensity') {
      const all = clouds.map((cloud) => (mode === 'elevation' ? cloud.source.elevationRange : cloud.intensityRange));
      return [Math.min(...all.map(([low]) => low)), Math.max(...all.map(([, high]) => high))];
    }
    const spread = this.spread();
    if (spread?.mode === mode) {
      const { 2: low, 98: high } = spread.percentiles;
      if (modeFacts(mode).ramp !== 'either-side') return [low, high];
      const far = Math.max(Math.abs(low), Math.abs(high));
      return [-far, far];
    }
    return mode === 'greenness'
      ? [-0.1, 0.4]
      : mode === 'height'
        ? [0, 15]
        : mode === 'gps-time'
          ? [0, 1]
          : [-0.5, 0.5];
  });

  readonly isRamped = computed(() => isRamped(this.mode()));

  readonly visible = computed<Visible>(
    () => {
      const all = this.store.clouds();
      const shown = this.layers.shownClouds();
      const box = this.box();
      const focus = this.focus();
      return {
        ...(shown.length < all.length && { clouds: shown.map(({ id }) => id) }),
        hiddenClasses: [...this.hiddenClasses()].sort((a, b) => a - b),
        withWithheld: this.showsWithheld(),
        ...(box && { box }),
        ...(focus && { focus }),
      };
    },
    { equal: (a, b) => JSON.stringify(a) === JSON.stringify(b) },
  );

  /** Colour of a class: the surveyor's own where there is one. */
  readonly classColour = computed(() => {
    const own = new Map(this.store.jobClasses().map(({ code, colour }) => [code, colour]));
    return (code: number): string => own.get(code) ?? classColour(code);
  });
  readonly className = computed(() => {
    const own = new Map(this.store.jobClasses().map(({ code, name }) => [code, name]));
    return (code: number): string => own.get(code) ?? className(code);
  });

  toggleClass(code: number): void {
    const next = new Set(this.hiddenClasses());
    if (!next.delete(code)) next.add(code);
    this.hiddenClasses.set(next);
  }

  /** Only this class, or all again where it is alone already. */
  showOnly(code: number): void {
    const others = this.store.classCodes().filter((other) => other !== code);
    const isAlone = !this.hiddenClasses().has(code) && others.every((other) => this.hiddenClasses().has(other));
    this.hiddenClasses.set(new Set(isAlone ? [] : others));
  }

  nextMode(): void {
    const modes = this.modes();
    const at = modes.findIndex(({ id }) => id === this.mode());
    this.mode.set(modes[(at + 1) % modes.length]!.id);
  }

  setRange(low: number, high: number): void {
    if (high > low) this.ranges.update((ranges) => ({ ...ranges, [this.mode()]: [low, high] }));
  }

  clearRange(): void {
    this.ranges.update(({ [this.mode()]: _, ...rest }) => rest);
  }

  setRamp(ramp: RampId): void {
    this.ramps.update((ramps) => ({ ...ramps, [this.mode()]: ramp }));
  }

  release(): void {
    this.box.set(undefined);
    this.focus.set(undefined);
  }
}
