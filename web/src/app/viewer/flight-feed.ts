import { computed, effect, inject, Injectable, untracked } from '@angular/core';
import type { ProductOf } from '@pampero/contract';
import { firstValueFrom } from 'rxjs';
import { ApiClient } from '../api/api-client';
import { flightParts, type FlightColouring, type FlightFile } from '../drawing/flight-lines';
import { JobStore } from '../state/job-store';
import { LayerStore } from '../state/layer-store';
import { LookStore } from '../state/look-store';
import { shiftToTrajectory } from '../state/strip-spans';
import { SceneLines } from './scene-lines';
import { ViewCameras } from './view-cameras';

/** Trajectories and the places of photographs, as lines over the land in the colours that were chosen. */
@Injectable()
export class FlightFeed {
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);
  private readonly look = inject(LookStore);
  private readonly cameras = inject(ViewCameras);
  private readonly api = inject(ApiClient);
  private readonly lines = inject(SceneLines);

  private readonly files = new Map<number, Promise<FlightFile | undefined>>();
  /** Layers that are drawn, by what they show. */
  private drawn = new Map<string, string>();
  private turn = 0;

  private readonly wanted = computed(() => [
    ...this.layers.shownTrajectories().map(({ id, facts }) => ({ id, colouring: this.colouringOf(facts) })),
    ...this.layers.shownPhotographs().map(({ id }) => ({ id, colouring: { by: 'plain' } as const })),
  ]);

  constructor() {
    effect(() => {
      this.wanted();
      this.cameras.origin();
      untracked(() => void this.show());
    });
  }

  private colouringOf(facts: ProductOf<'trajectory'>['facts']): FlightColouring {
    const by = this.look.flightColour();
    if (by !== 'strip') return { by };
    const [cloud] = this.store.clouds();
    const spans = this.look.strips().flatMap((span) => {
      const shift = cloud && shiftToTrajectory(cloud, span.from, facts);
      return shift === undefined ? [] : [{ ...span, from: span.from + shift, to: span.to + shift }];
    });
    return { by, spans };
  }

  private async show(): Promise<void> {
    const turn = ++this.turn;
    const [jobId, origin, wanted] = [this.store.jobId(), this.cameras.origin(), this.wanted()];
    const next = new Map<string, string>();
    for (const { id, colouring } of wanted) {
      const file = await this.fileOf(jobId, id);
      // Something else is wanted meanwhile.
      if (turn !== this.turn) return;
      if (!file) continue;
      const look = JSON.stringify([origin, colouring]);
      for (const { name, colour, positions } of flightParts(file, origin, colouring)) {
        const key = `flight-${id}-${name}`;
        next.set(key, look);
        if (this.drawn.get(key) !== look)
          this.lines.set(key, positions, { colour, opacity: 0.85, isDepthTested: false });
      }
    }
    for (const key of this.drawn.keys()) if (!next.has(key)) this.lines.set(key, undefined);
    this.drawn = next;
  }

  private fileOf(jobId: string, productId: number): Promise<FlightFile | undefined> {
    let file = this.files.get(productId);
    if (!file) {
      file = firstValueFrom(this.api.call('showProduct', { params: { jobId, productId } })).then(
        (bytes) => JSON.parse(new TextDecoder().decode(bytes)) as FlightFile,
        () => {
          // It is asked for again when it is wanted next.
          this.files.delete(productId);
          return undefined;
        },
      );
      this.files.set(productId, file);
    }
    return file;
  }
}
