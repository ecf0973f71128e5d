import { NgComponentOutlet } from '@angular/common';
import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  inject,
  input,
  signal,
  type Type,
} from '@angular/core';
import { takeUntilDestroyed, toObservable, toSignal } from '@angular/core/rxjs-interop';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { MatTooltipModule } from '@angular/material/tooltip';
import { RouterLink } from '@angular/router';
import { stageIds, stages, type OperationId, type Stage } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { rampGradient } from '@pampero/core/tints';
import { formatNumber } from '@pampero/core/wording';
import { from, of, switchMap } from 'rxjs';
import { shortUnit } from '../shared/format';
import { KeyTable } from '../shared/key-table';
import { stageHomes, type StageHome } from '../stages';
import { ControlStore } from '../state/control-store';
import { JobStore } from '../state/job-store';
import { LayerStore } from '../state/layer-store';
import { LineStore } from '../state/line-store';
import { LookStore } from '../state/look-store';
import { RunSheetStore } from '../state/run-sheet-store';
import { RendererStore } from '../state/renderer-store';
import { ViewStore, type Pane } from '../state/view-store';
import { BoxBarComponent } from '../tools/box-bar.component';
import { LineBarComponent } from '../tools/lines/line-bar.component';
import { LineEditor } from '../tools/lines/line-editor';
import { LineOverlayComponent } from '../tools/lines/line-overlay.component';
import { LinePen } from '../tools/lines/line-pen';
import { LineHits } from '../tools/lines/line-hits';
import { LinePlaces } from '../tools/lines/line-places';
import { MeasureBarComponent } from '../tools/measure-bar.component';
import { MeasureStore } from '../tools/measure-store';
import { SelectionBarComponent } from '../tools/selection-bar.component';
import { NotePen } from '../tools/note-pen';
import { PatchStore } from '../tools/patch-store';
import { SectionPen } from '../tools/section-pen';
import { SelectionPen } from '../tools/selection-pen';
import { SelectionStore } from '../tools/selection-store';
import { ToolGestures } from '../tools/tool-gestures';
import { ToolOverlayComponent } from '../tools/tool-overlay.component';
import { ToolRailComponent } from '../tools/tool-rail.component';
import { ContourLabels } from '../viewer/contour-labels';
import { DrawingLink } from '../viewer/drawing-link';
import { PlanCovers } from '../viewer/plan-covers';
import { PlanMarks } from '../viewer/plan-marks';
import { PointerTool } from '../viewer/pointer-tool';
import { SceneLines } from '../viewer/scene-lines';
import { SectionComparison } from '../viewer/section-comparison';
import { PictureStore } from '../viewer/picture-store';
import { TintStore } from '../viewer/tint-store';
import { ViewCameras } from '../viewer/view-cameras';
import { ViewCapture } from '../viewer/view-capture';
import { ViewerComponent } from '../viewer/viewer.component';
import { ColourPanelComponent } from './colour-panel.component';
import { FieldBookComponent } from './field-book.component';
import { FootLineComponent } from './foot-line.component';
import { LayersComponent } from './layers.component';
import { SectionBarComponent } from './section-bar.component';
import { TraverseComponent } from './traverse.component';
import { ViewMenuComponent } from './view-menu.component';
import { WorkbenchKeys } from './workbench-keys';

const stageServices = stageHomes.flatMap(({ services = [] }) => services);

/** The workbench: traverse above, layers left, views in the middle, the stage's sheet right, the foot line below. */
@Component({
  selector: 'pam-workbench',
  imports: [
    BoxBarComponent,
    ColourPanelComponent,
    FieldBookComponent,
    FootLineComponent,
    LayersComponent,
    LineBarComponent,
    LineOverlayComponent,
    MatButtonModule,
    MatIconModule,
    MatTooltipModule,
    MeasureBarComponent,
    NgComponentOutlet,
    RouterLink,
    SectionBarComponent,
    SelectionBarComponent,
    ToolOverlayComponent,
    ToolRailComponent,
    TraverseComponent,
    ViewerComponent,
    ViewMenuComponent,
  ],
  providers: [
    JobStore,
    LayerStore,
    ViewStore,
    ControlStore,
    RendererStore,
    RunSheetStore,
    LookStore,
    LineStore,
    KeyTable,
    DrawingLink,
    ViewCameras,
    ViewCapture,
    PlanCovers,
    PlanMarks,
    SceneLines,
    SectionComparison,
    ContourLabels,
    TintStore,
    PictureStore,
    SelectionStore,
    PatchStore,
    MeasureStore,
    NotePen,
    SectionPen,
    SelectionPen,
    ToolGestures,
    LinePlaces,
    LineHits,
    LinePen,
    LineEditor,
    { provide: PointerTool, useExisting: ToolGestures },
    WorkbenchKeys,
    ...stageServices,
  ],
  templateUrl: './workbench.component.html',
  styleUrl: './workbench.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { '(document:keydown)': 'table.pressed($event)' },
})
export class WorkbenchComponent {
  readonly jobId = input.required<string>();
  readonly stage = input.required<string>();

  protected readonly store = inject(JobStore);
  protected readonly layers = inject(LayerStore);
  protected readonly views = inject(ViewStore);
  protected readonly look = inject(LookStore);
  protected readonly cameras = inject(ViewCameras);
  protected readonly table = inject(KeyTable);
  protected readonly keys = inject(WorkbenchKeys);
  private readonly tints = inject(TintStore);

  protected readonly current = computed<Stage>(() => stageIds.find((id) => id === this.stage()) ?? 'intake');
  protected readonly facts = computed(() => stages.find((stage) => stage.id === this.current())!);
  private readonly home = computed<StageHome | undefined>(() => stageHomes.find(({ id }) => id === this.current()));
  /** The sheet of the stage, once it is loaded; nothing for a stage that is not built. */
  protected readonly sheet = toSignal(
    toObservable(this.home).pipe(switchMap((home) => (home ? from(home.sheet()) : of(undefined)))),
  );
  protected readonly system = computed(() => {
    const job = this.store.job();
    if (!job) return '';
    // The name of a local system says its unit.
    return job.crs.epsg === undefined && job.crs.name
      ? job.crs.name
      : [job.crs.epsg === undefined ? '' : `EPSG:${job.crs.epsg}`, lengthUnits[job.unit].name]
          .filter(Boolean)
          .join(', ');
  });
  protected readonly panes: readonly { id: Pane; name: string }[] = [
    { id: 'plan', name: 'Plan' },
    { id: 'model', name: 'Model' },
    { id: 'both', name: 'Side by side' },
  ];
  private readonly unit = computed(() => shortUnit(this.store.unit()));

  protected readonly legend = computed(() => {
    const isRelief = this.layers.isReliefDrawn();
    const text = (value: number, decimals: number, unit: string): string => `${formatNumber(value, decimals)} ${unit}`;
    if (isRelief)
      return this.tints.areDraped()
        ? undefined
        : {
            gradient: this.tints.gradient(),
            low: text(this.tints.stops()[0]!.value, 2, this.tints.unit()),
            high: text(this.tints.stops().at(-1)!.value, 2, this.tints.unit()),
          };
    const facts = this.look.ramped();
    if (!facts || this.store.inSight().length === 0) return undefined;
    const [low, high] = this.look.range();
    const { decimals, unit } = facts;
    const shown = unit === 'length' ? this.unit() : unit;
    // Ends that are nearer than a decimetre are told apart by a third decimal.
    const places = high - low < 0.1 ? decimals : Math.min(2, decimals);
    return {
      gradient: rampGradient(this.look.ramp()),
      low: text(low, places, shown),
      high: text(high, places, shown),
    };
  });
  protected readonly modeName = computed(() => this.look.facts().name);
  protected readonly isColourOpen = signal(false);

  constructor() {
    // Stages' services are made with the workbench: their tools and keys are there on every sheet.
    for (const service of [...stageServices, LinePen, LineEditor]) inject(service as Type<unknown>);
    effect(() => this.store.open(this.jobId()));
    inject(DestroyRef).onDestroy(() => this.store.close());
    this.store.ended$.pipe(takeUntilDestroyed()).subscribe((run) => {
      if (run.state !== 'done') return;
      const { store, layers, look } = this;
      for (const { shows } of stageHomes) shows?.[run.operation as OperationId]?.({ store, layers, look }, run);
    });
  }

  /** A box about the middle of what Model looks at, to be drawn in by its faces. */
  protected toggleBox(): void {
    if (this.look.box()) {
      this.look.box.set(undefined);
      return;
    }
    const { min, max } = this.cameras.jobBounds();
    const { x, y } = this.cameras.model();
    const [ox, oy] = this.cameras.origin();
    const half = this.cameras.model().distance / 4;
    this.look.box.set({
      min: [Math.max(min[0], x + ox - half), Math.max(min[1], y + oy - half), min[2]],
      max: [Math.min(max[0], x + ox + half), Math.min(max[1], y + oy + half), max[2]],
    });
    if (this.views.pane() === 'plan') this.views.pane.set('both');
  }
}
