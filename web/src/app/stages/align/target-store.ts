import { computed, effect, inject, Injectable, signal } from '@angular/core';
import { ControlStore } from '../../state/control-store';
import { ViewStore } from '../../state/view-store';
import { ToolGestures } from '../../tools/tool-gestures';
import { PlanMarks } from '../../viewer/plan-marks';

type Place = readonly [number, number, number];

/** Where surveyed targets lie in the cloud, as they are picked one after the other. */
@Injectable()
export class TargetStore {
  private readonly control = inject(ControlStore);
  private readonly views = inject(ViewStore);
  private readonly marks = inject(PlanMarks);

  readonly picked = signal<ReadonlyMap<string, Place>>(new Map());
  /** The target that the next click is for. */
  readonly waiting = signal<string | undefined>(undefined);
  readonly surveyed = computed(() => this.control.look()?.points ?? []);

  constructor() {
    inject(ToolGestures).onPoint('targets', ({ easting, northing, elevation }) =>
      this.take([easting, northing, elevation]),
    );
    effect(() => {
      this.marks.set(
        'targets',
        [...this.picked()].map(([number, [easting, northing]]) => ({
          key: `target-${number}`,
          kind: 'ring' as const,
          easting,
          northing,
        })),
      );
    });
  }

  pick(number: string): void {
    this.waiting.set(number);
    this.views.tool.set('targets');
  }

  drop(number: string): void {
    this.picked.update((picked) => new Map([...picked].filter(([other]) => other !== number)));
  }

  clear(): void {
    this.picked.set(new Map());
    this.waiting.set(undefined);
    if (this.views.tool() === 'targets') this.views.tool.set('look');
  }

  /** The click is for the target that waits; the next one that is not picked yet waits then. */
  private take(place: Place): void {
    const number = this.waiting() ?? this.nextAfter(undefined);
    if (number === undefined) return;
    this.picked.update((picked) => new Map(picked).set(number, place));
    const next = this.nextAfter(number);
    this.waiting.set(next);
    if (next === undefined) this.views.tool.set('look');
  }

  private nextAfter(number: string | undefined): string | undefined {
    const list = this.surveyed();
    const at = list.findIndex((point) => point.number === number);
    return [...list.slice(at + 1), ...list.slice(0, at + 1)].find((point) => !this.picked().has(point.number))?.number;
  }
}
