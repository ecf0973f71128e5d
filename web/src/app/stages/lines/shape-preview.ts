import { computed, DestroyRef, effect, inject, Injectable, signal } from '@angular/core';
import { shapeLines, type ShapeLinesParameters } from '@pampero/contract';
import { metresPer } from '@pampero/core/geodesy';
import { joinEnds, LINE_SHAPERS, LineError, type LineShape } from '@pampero/core/lines';
import { formatCount } from '@pampero/core/wording';
import { shapeSegments } from '../../drawing/line-segments';
import { JobStore } from '../../state/job-store';
import { LineEditor } from '../../tools/lines/line-editor';
import { SceneLines } from '../../viewer/scene-lines';
import { ViewCameras } from '../../viewer/view-cameras';

/** More corners than this are not shaped on the page; the operation itself takes any number. */
const MOST_CORNERS = 200_000;

/** What shaping would make of the selected lines, before it is done: drawn over them, and counted. */
@Injectable()
export class ShapePreview {
  private readonly store = inject(JobStore);
  private readonly editor = inject(LineEditor);
  private readonly scene = inject(SceneLines);
  private readonly cameras = inject(ViewCameras);

  readonly values = signal<Readonly<Record<string, unknown>>>({});

  private readonly shaped = computed<{ readonly shapes: readonly LineShape[]; readonly says: string } | undefined>(
    () => {
      const selected = this.editor.selected();
      if (selected.length === 0) return undefined;
      const parsed = shapeLines.parameters(this.store.unit()).safeParse(this.values());
      const before = selected.reduce((sum, { easting }) => sum + easting.length, 0);
      if (!parsed.success || before > MOST_CORNERS) return undefined;
      const how = parsed.data as ShapeLinesParameters;
      const { shaping } = how;
      if (shaping === 'drape' || shaping === 'turn') return undefined;
      try {
        const shapes = shaping === 'join' ? joinEnds(selected, how.gap).map(({ shape }) => shape) : selected.map((line) => LINE_SHAPERS[shaping](line, how)); // prettier-ignore
        const after = shapes.reduce((sum, { easting }) => sum + easting.length, 0);
        return { shapes, says: `Would give ${formatCount(after)} vertices in place of ${formatCount(before)}. Shown in teal.` }; // prettier-ignore
      } catch (error) {
        return error instanceof LineError ? { shapes: [], says: `${error.what} ${error.fix ?? ''}` } : undefined;
      }
    },
  );
  readonly says = computed(() => this.shaped()?.says);

  constructor() {
    effect(() => {
      const shapes = this.shaped()?.shapes ?? [];
      const segments = shapeSegments(shapes, this.cameras.origin(), 'solid', 1 / metresPer(this.store.unit()));
      this.scene.set('lines-preview', shapes.length > 0 ? segments : undefined, { colour: '#12B5A6', opacity: 1, isDepthTested: false }); // prettier-ignore
    });
    inject(DestroyRef).onDestroy(() => this.scene.set('lines-preview', undefined));
  }
}
