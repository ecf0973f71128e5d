import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  inject,
  input,
  viewChild,
} from '@angular/core';
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
import { TerrainSheetComponent } from '../sheets/terrain-sheet.component';
import { ELEVATION_GRADIENT, INTENSITY_GRADIENT } from '../viewer/colours';
import { EXAGGERATIONS, ViewerComponent } from '../viewer/viewer.component';
import type { ColourMode } from '../viewer/viewer-protocol';
import { formatNumber, shortUnit } from '../shared/format';
import { FieldBookComponent } from './field-book.component';
import { FootLineComponent } from './foot-line.component';
import { LayersComponent } from './layers.component';
import { ShortcutsDialogComponent } from './shortcuts-dialog.component';
import { TraverseComponent } from './traverse.component';
import { WorkbenchStore, type Pane } from './workbench-store';

/** The workbench: traverse above, layers left, views in the middle, the stage's sheet right, the foot line below. */
@Component({
  selector: 'pam-workbench',
  imports: [
    ClassifySheetComponent,
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
    TraverseComponent,
    ViewerComponent,
  ],
  providers: [WorkbenchStore],
  templateUrl: './workbench.component.html',
  styleUrl: './workbench.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { '(document:keydown)': 'keyed($event)' },
})
export class WorkbenchComponent {
  readonly jobId = input.required<string>();
  readonly stage = input.required<string>();

  protected readonly store = inject(WorkbenchStore);
  private readonly dialog = inject(MatDialog);
  private readonly router = inject(Router);
  private readonly viewer = viewChild(ViewerComponent);

  protected readonly current = computed<Stage>(() => stageIds.find((id) => id === this.stage()) ?? 'intake');
  protected readonly facts = computed(() => stages.find((stage) => stage.id === this.current())!);
  protected readonly system = computed(() => {
    const job = this.store.job();
    if (!job) return '';
    return [job.crs.epsg === undefined ? job.crs.name : `EPSG:${job.crs.epsg}`, lengthUnits[job.unit].name]
      .filter(Boolean)
      .join(', ');
  });
  protected readonly colourModes: readonly { id: ColourMode; name: string }[] = [
    { id: 'class', name: 'Class' },
    { id: 'elevation', name: 'Elevation' },
    { id: 'intensity', name: 'Intensity' },
  ];
  protected readonly panes: readonly { id: Pane; name: string }[] = [
    { id: 'plan', name: 'Plan' },
    { id: 'model', name: 'Model' },
    { id: 'both', name: 'Side by side' },
  ];
  protected readonly exaggerations = EXAGGERATIONS;
  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly depthText = computed(() => formatNumber(this.store.sectionDepth(), 2));

  protected readonly legend = computed(() => {
    const clouds = this.store.clouds();
    const mode = this.store.colourMode();
    const surface = this.store.drawnSurface();
    if (surface)
      return {
        gradient: ELEVATION_GRADIENT,
        low: `${formatNumber(surface.facts.lowest, 2)} ${this.unit()}`,
        high: `${formatNumber(surface.facts.highest, 2)} ${this.unit()}`,
      };
    if (mode === 'class' || clouds.length === 0) return undefined;
    const range = clouds.map((cloud) => (mode === 'elevation' ? cloud.source.elevationRange : cloud.intensityRange));
    const low = Math.min(...range.map(([l]) => l));
    const high = Math.max(...range.map(([, h]) => h));
    return mode === 'elevation'
      ? {
          gradient: ELEVATION_GRADIENT,
          low: `${formatNumber(low, 2)} ${this.unit()}`,
          high: `${formatNumber(high, 2)} ${this.unit()}`,
        }
      : { gradient: INTENSITY_GRADIENT, low: formatNumber(low, 0), high: formatNumber(high, 0) };
  });

  constructor() {
    effect(() => this.store.open(this.jobId()));
    inject(DestroyRef).onDestroy(() => this.store.close());
  }

  protected frameAll(): void {
    this.viewer()?.frameAll();
  }

  protected toggleLaying(): void {
    if (this.store.pane() === 'model') this.store.pane.set('plan');
    this.store.isLayingSection.set(!this.store.isLayingSection());
  }

  protected setDepth(field: HTMLInputElement): void {
    const depth = parseLength(field.value, this.store.unit());
    if (depth !== undefined && depth > 0) this.store.sectionDepth.set(depth);
    field.value = this.depthText();
  }

  protected turnSection(): void {
    this.viewer()?.turnSection();
  }

  protected showShortcuts(): void {
    this.dialog.open(ShortcutsDialogComponent, { width: '560px' });
  }

  /** Pampero's own keys; a field that is being typed in keeps them. */
  protected keyed(event: KeyboardEvent): void {
    if (event.target instanceof HTMLElement && event.target.closest('input, textarea, mat-select, [role="dialog"]'))
      return;
    const withControl = event.ctrlKey || event.metaKey;
    if (withControl && event.key.toLowerCase() === 'z') {
      if (event.shiftKey) this.store.redo();
      else this.store.undo();
    } else if (withControl || event.altKey) return;
    else if (event.key === '?') this.showShortcuts();
    else if (event.key === 'b') this.store.isBookOpen.update((open) => !open);
    else if (event.key === 's') this.toggleLaying();
    else if (event.key === 'w') this.frameAll();
    else if (event.key === 'l') this.turnSection();
    else if (event.key === 'v')
      this.store.pane.update((pane) => (pane === 'plan' ? 'model' : pane === 'model' ? 'both' : 'plan'));
    else if (event.key === 'c')
      this.store.colourMode.update((mode) =>
        mode === 'class' ? 'elevation' : mode === 'elevation' ? 'intensity' : 'class',
      );
    else if (/^[1-8]$/.test(event.key))
      void this.router.navigate(['/jobs', this.jobId(), stageIds[Number(event.key) - 1]]);
    else return;
    event.preventDefault();
  }
}
