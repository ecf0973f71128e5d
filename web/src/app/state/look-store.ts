import { computed, inject, Injectable, signal } from '@angular/core';
import { className } from '@pampero/core/cloud';
import type { Box, Selection, Visible } from '@pampero/core/selection';
import { classColour } from '@pampero/core/tints';
import {
  COLOUR_MODES,
  colourMode,
  isRamped,
  type ColourMode,
  type ColourModeFacts,
  type ModeSight,
} from '../drawing/colour-modes';
import type { RampId } from '@pampero/core/tints';
import type { StripSpan } from '../drawing/strip-span';
import type { ValueSpread } from '../drawing/viewer-questions';
import { JobStore } from './job-store';
import { LayerStore } from './layer-store';
import { stripSpansOf } from './strip-spans';
import { toggled } from '../shared/toggled';

/** What a trajectory can be coloured by. */
export type FlightColour = 'plain' | 'strip' | 'time' | 'accuracy';

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
  readonly modes = computed(() => COLOUR_MODES.filter((mode: ColourModeFacts) => mode.isThere?.(this.sight()) ?? true));
  /** Strips that were found by their times. */
  readonly strips = computed(() => this.stripDraft() ?? stripSpansOf(this.store.of('strips')));
  /** ... while they are edited. */
  readonly stripDraft = signal<readonly StripSpan[] | undefined>(undefined);
  /** What there is to colour by. */
  readonly sight = computed<ModeSight>(() => ({
    clouds: this.store.inSight(),
    hasSurface: this.layers.shownSurface() !== undefined,
    strips: this.strips(),
  }));
  /** What a trajectory is coloured by. */
  readonly flightColour = signal<FlightColour>('plain');

  /** The facts of the mode, for what it needs to be drawn and named. */
  readonly facts = computed(() => colourMode(this.mode()));
  /** The same, where the points are coloured along a ramp. */
  readonly ramped = computed(() => {
    const facts = this.facts();
    return isRamped(facts) ? facts : undefined;
  });

  readonly ramp = computed<RampId>(() => this.ramps()[this.mode()] ?? this.ramped()?.ramp ?? 'grey');

  readonly range = computed<readonly [number, number]>(() => {
    const facts = this.ramped();
    if (!facts) return [0, 1];
    const mode = this.mode();
    const own = this.ranges()[mode];
    if (own) return own;
    const clouds = this.store.inSight();
    if (facts.rangeOf && clouds.length > 0) return facts.rangeOf(clouds);
    const spread = this.spread();
    if (spread?.mode !== mode) return facts.usualRange;
    const { 2: low, 98: high } = spread.percentiles;
    if (facts.ramp !== 'either-side') return [low, high];
    const far = Math.max(Math.abs(low), Math.abs(high));
    return [-far, far];
  });

  readonly visible = computed<Visible>(
    () => {
      const all = this.store.inSight();
      const shown = this.layers.drawnClouds();
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
    this.hiddenClasses.update((before) => toggled(before, code));
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
