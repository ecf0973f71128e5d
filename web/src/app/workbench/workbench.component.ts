import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, input, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import { MatTooltipModule } from '@angular/material/tooltip';
import { Router, RouterLink } from '@angular/router';
import { stageIds, stages, type Stage } from '@pampero/contract';
import { lengthUnits, parseLength } from '@pampero/core/geodesy';
import { ClassifySheetComponent } from '../sheets/classify-sheet.component';
import { DeliverSheetComponent } from '../sheets/deliver-sheet.component';
import { IntakeSheetComponent } from '../sheets/intake-sheet.component';
import { ThinSheetComponent } from '../sheets/thin-sheet.component';
import { TerrainSheetComponent } from '../sheets/terrain-sheet.component';
import { BoxBarComponent } from '../tools/box-bar.component';
import { MeasureBarComponent } from '../tools/measure-bar.component';
import { MeasureStore } from '../tools/measure-store';
import { SelectionBarComponent } from '../tools/selection-bar.component';
import { SelectionStore } from '../tools/selection-store';
import { ToolGestures } from '../tools/tool-gestures';
import { ToolRailComponent } from '../tools/tool-rail.component';
import { SurfaceEditStore } from '../terrain/surface-edit-store';
import { TintStore } from '../terrain/tint-store';
import { ContourFigures } from '../viewer/contour-figures';
import { DoubtStore } from '../review/doubt-store';
import { TOOLS } from '../tools/tools';
import { DrawingLink } from '../viewer/drawing-link';
import { rampGradient } from '@pampero/core/tints';
import { EXAGGERATIONS, ViewCameras } from '../viewer/view-cameras';
import { ViewerComponent } from '../viewer/viewer.component';
import { formatNumber, shortUnit } from '../shared/format';
import { GroundComparison } from '../review/ground-comparison';
import { CleanSheetComponent } from '../sheets/clean-sheet.component';
import { ColourPanelComponent } from './colour-panel.component';
import { FieldBookComponent } from './field-book.component';
import { FootLineComponent } from './foot-line.component';
import { LayersComponent } from './layers.component';
import { LookStore, modeFacts } from './look-store';
import { ShortcutsDialogComponent } from './shortcuts-dialog.component';
import { TraverseComponent } from './traverse.component';
import { ViewMenuComponent } from './view-menu.component';
import { WorkbenchStore, type Pane } from './workbench-store';

/** The workbench: traverse above, layers left, views in the middle, the stage's sheet right, the foot line below. */
@Component({
  selector: 'pam-workbench',
  imports: [
    ClassifySheetComponent,
    CleanSheetComponent,
    ColourPanelComponent,
    BoxBarComponent,
    MeasureBarComponent,
    SelectionBarComponent,
    ToolRailComponent,
    ViewMenuComponent,
    DeliverSheetComponent,
    FieldBookComponent,
    FootLineComponent,
    FormsModule,
    IntakeSheetComponent,
    LayersComponent,
    MatButtonModule,
    MatIconModule,
    MatTooltipModule,
    RouterLink,
    TerrainSheetComponent,
    ThinSheetComponent,
    TraverseComponent,
    ViewerComponent,
  ],
  providers: [
    WorkbenchStore,
    LookStore,
    DrawingLink,
    ViewCameras,
    SelectionStore,
    MeasureStore,
    ToolGestures,
    ContourFigures,
    GroundComparison,
    SurfaceEditStore,
    TintStore,
    DoubtStore,
  ],
  templateUrl: './workbench.component.html',
  styleUrl: './workbench.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { '(document:keydown)': 'keyed($event)' },
})
export class WorkbenchComponent {
  readonly jobId = input.required<string>();
  readonly stage = input.required<string>();

  protected readonly store = inject(WorkbenchStore);
  protected readonly look = inject(LookStore);
  protected readonly selection = inject(SelectionStore);
  protected readonly cameras = inject(ViewCameras);
  private readonly dialog = inject(MatDialog);
  private readonly router = inject(Router);

  protected readonly current = computed<Stage>(() => stageIds.find((id) => id === this.stage()) ?? 'intake');
  protected readonly facts = computed(() => stages.find((stage) => stage.id === this.current())!);
  protected readonly system = computed(() => {
    const job = this.store.job();
    if (!job) return '';
    return [job.crs.epsg === undefined ? job.crs.name : `EPSG:${job.crs.epsg}`, lengthUnits[job.unit].name]
      .filter(Boolean)
      .join(', ');
  });
  protected readonly panes: readonly { id: Pane; name: string }[] = [
    { id: 'plan', name: 'Plan' },
    { id: 'model', name: 'Model' },
    { id: 'both', name: 'Side by side' },
  ];
  protected readonly exaggerations = EXAGGERATIONS;
  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly depthText = computed(() => formatNumber(this.store.sectionDepth(), 2));
  protected readonly stepText = computed(() => formatNumber(this.store.sectionStep(), 2));

  private readonly tints = inject(TintStore);
  protected readonly legend = computed(() => {
    const isRelief = this.store.isReliefDrawn();
    const text = (value: number, decimals: number, unit: string): string => `${formatNumber(value, decimals)} ${unit}`;
    if (isRelief)
      return {
        gradient: this.tints.gradient(),
        low: text(this.tints.stops()[0]!.value, 2, this.tints.unit()),
        high: text(this.tints.stops().at(-1)!.value, 2, this.tints.unit()),
      };
    if (!this.look.isRamped() || this.store.clouds().length === 0) return undefined;
    const [low, high] = this.look.range();
    const { decimals, unit } = modeFacts(this.look.mode());
    const shown = unit === 'length' ? this.unit() : unit;
    return {
      gradient: rampGradient(this.look.ramp()),
      low: text(low, Math.min(2, decimals), shown),
      high: text(high, Math.min(2, decimals), shown),
    };
  });
  protected readonly modeName = computed(() => modeFacts(this.look.mode()).name);
  protected readonly isColourOpen = signal(false);

  constructor() {
    effect(() => this.store.open(this.jobId()));
    inject(DestroyRef).onDestroy(() => this.store.close());
  }

  protected frameAll(): void {
    this.cameras.frameAll();
  }

  protected setDepth(field: HTMLInputElement): void {
    const depth = parseLength(field.value, this.store.unit());
    if (depth !== undefined && depth > 0) this.store.sectionDepth.set(depth);
    field.value = this.depthText();
  }

  protected setStep(field: HTMLInputElement): void {
    const step = parseLength(field.value, this.store.unit());
    this.store.ownSectionStep.set(step !== undefined && step > 0 ? step : undefined);
    field.value = this.stepText();
  }

  protected turnSection(): void {
    this.cameras.turnSection();
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
    if (this.store.pane() === 'plan') this.store.pane.set('both');
  }

  protected showShortcuts(): void {
    this.dialog.open(ShortcutsDialogComponent, { width: '720px' });
  }

  /** Pampero's own keys; a field that is being typed in keeps them. */
  protected keyed(event: KeyboardEvent): void {
    const { target } = event;
    if (
      target instanceof HTMLElement &&
      target.closest('input, select, textarea, mat-select, [role="dialog"], [role="menu"]')
    )
      return;
    const withControl = event.ctrlKey || event.metaKey;
    if (withControl && event.key.toLowerCase() === 'z') {
      if (event.shiftKey) this.store.redo();
      else this.store.undo();
    } else if (withControl) return;
    else if (!this.keyedForSelection(event) && !this.keyedForWorkbench(event)) return;
    event.preventDefault();
  }

  /** With points selected, digits set classes 0 to 9, with Shift 10 to 19, with Alt 20 to 22; own keys set own classes. */
  private keyedForSelection(event: KeyboardEvent): boolean {
    if (this.selection.isEmpty()) {
      if (event.key === 'r') this.selection.repeat();
      return event.key === 'r';
    }
    const digit = /^Digit(\d)$/.exec(event.code)?.[1];
    if (digit !== undefined) {
      const code = Number(digit) + (event.shiftKey ? 10 : event.altKey ? 20 : 0);
      if (code <= 22) this.selection.setClass(code);
      return true;
    }
    if (event.altKey) return false;
    const own = this.store.jobClasses().find(({ key }) => key !== undefined && key === event.key);
    if (own) this.selection.setClass(own.code);
    else if (event.key === 'Delete') this.selection.withhold();
    else if (event.key === 'Insert') this.selection.restore();
    else if (event.key === 'i') this.selection.invert();
    else if (event.key === 'f') this.selection.focus();
    else if (event.key === 'h') this.selection.setAside();
    else if (event.key === 'Escape') this.selection.clear();
    else return false;
    return true;
  }

  private keyedForWorkbench(event: KeyboardEvent): boolean {
    if (event.altKey) return false;
    const tool = TOOLS.find(({ key }) => key === event.key);
    if (tool) this.store.takeTool(this.store.tool() === tool.id ? 'look' : tool.id);
    else if (event.key === '?') this.showShortcuts();
    else if (event.key === 'b') this.store.isBookOpen.update((open) => !open);
    else if (event.key === 'w') this.frameAll();
    else if (event.key === 'l') this.turnSection();
    else if (event.key === 'g') this.look.release();
    else if (event.key === 'v')
      this.store.pane.update((pane) => (pane === 'plan' ? 'model' : pane === 'model' ? 'both' : 'plan'));
    else if (event.key === 'c') this.look.nextMode();
    else if (event.key === 'Escape') this.store.takeTool('look');
    else if (/^[1-8]$/.test(event.key))
      void this.router.navigate(['/jobs', this.jobId(), stageIds[Number(event.key) - 1]]);
    else return false;
    return true;
  }
}
