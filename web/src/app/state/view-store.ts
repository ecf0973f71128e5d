import { computed, inject, Injectable, linkedSignal, signal } from '@angular/core';
import type { PickedPoint, SurfaceAnswer } from '../drawing/viewer-questions';
import { JobStore } from './job-store';
import { LayerStore } from './layer-store';
import type { ToolId } from './tool-id';

/** A section's line in full coordinates. */
export interface SectionLine {
  readonly a: readonly [number, number];
  readonly b: readonly [number, number];
}

export type Pane = 'plan' | 'model' | 'both';

/** How the open job is looked at: panes, section, the tool in hand, what is under the cursor. */
@Injectable()
export class ViewStore {
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);

  readonly pane = signal<Pane>('plan');
  readonly section = signal<SectionLine | undefined>(undefined);
  /** What the pointer does in the views. */
  readonly tool = signal<ToolId>('look');
  /** A round figure in the unit of the job, until the surveyor says another. */
  readonly sectionDepth = linkedSignal<number>(() => (this.store.unit() === 'metre' ? 2 : 6));
  /** How far a key walks it; its depth where the surveyor set nothing else. */
  readonly ownSectionStep = signal<number | undefined>(undefined);
  readonly sectionStep = computed(() => this.ownSectionStep() ?? this.sectionDepth());
  readonly sectionExaggeration = signal(2);
  readonly cursor = signal<
    { easting: number; northing: number; elevation?: number; station?: number; point?: PickedPoint } | undefined
  >(undefined);
  /** What the shown surface is under the cursor; undefined where no surface is drawn. */
  readonly underCursor = signal<SurfaceAnswer | undefined>(undefined);
  /** Station under the cursor in the section. */
  readonly hoverStation = signal<number | undefined>(undefined);
  readonly drawnPoints = signal(0);
  readonly isBookOpen = signal(false);

  /** Takes a tool in hand; one that works in the section or in Plan alone brings its view. */
  takeTool(tool: ToolId): void {
    if (tool === 'section' && this.pane() === 'model') this.pane.set('plan');
    if ((tool === 'above' || tool === 'below') && !this.section()) {
      this.store.say('Draw a section first. The line is drawn in it.');
      return;
    }
    if (tool === 'triangles') {
      if (!this.layers.shownSurface()) {
        this.store.say('There is no surface to edit. Build or show one first.');
        return;
      }
      this.layers.showSurface();
      if (this.pane() === 'model') this.pane.set('plan');
    } else if (tool !== 'look' && tool !== 'section' && this.layers.showing() === 'surface')
      this.layers.showing.set('points');
    this.tool.set(tool);
  }
}
