import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FactsComponent } from '../../shared/facts.component';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import {
  buildSurface,
  buildInDesigns,
  designEarthwork,
  drawContours,
  makeGrid,
  measureVolume,
  stateAccuracy,
  type ProductKindId,
} from '@pampero/contract';
import { GROUND } from '@pampero/core/cloud';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { JobStore } from '../../state/job-store';
import { LayerStore } from '../../state/layer-store';
import { FigureCardsComponent } from '../../sheets/figure-cards.component';
import { AlternativesComponent } from './alternatives.component';
import { ContourPreviewComponent } from './contour-preview.component';
import { ProfilePanelComponent } from './profile-panel.component';
import { SurfaceEditPanelComponent } from './surface-edit-panel.component';
import { TintPanelComponent } from './tint-panel.component';
import { OperationFormComponent } from '../../sheets/operation-form.component';
import { SheetPartComponent } from '../../sheets/sheet-part.component';
import { StaleNoticeComponent } from '../../sheets/stale-notice.component';

/** Terrain: a surface from ground, contours on the surface. */
@Component({
  selector: 'pam-terrain-sheet',
  imports: [
    AlternativesComponent,
    ContourPreviewComponent,
    FactsComponent,
    FigureCardsComponent,
    OperationFormComponent,
    ProfilePanelComponent,
    SheetPartComponent,
    StaleNoticeComponent,
    SurfaceEditPanelComponent,
    TintPanelComponent,
    MatButtonModule,
    MatIconModule,
  ],
  templateUrl: './terrain-sheet.component.html',
  styleUrl: '../../sheets/sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TerrainSheetComponent {
  protected readonly store = inject(JobStore);
  protected readonly layers = inject(LayerStore);
  protected readonly surfaceOperation = buildSurface;
  protected readonly contourOperation = drawContours;
  protected readonly contourValues = signal<Record<string, unknown>>({});

  protected readonly designOperation = designEarthwork;
  protected readonly buildingIn = buildInDesigns;
  /** The design that is most likely meant: the newest. */
  protected readonly newestDesign = computed(() => {
    const design = this.store.designs().at(-1);
    return design && { label: design.name, values: { designIds: [design.id] }, reasons: [] };
  });
  protected readonly gridOperation = makeGrid;
  protected readonly volumeOperation = measureVolume;
  protected readonly accuracyOperation = stateAccuracy;
  protected readonly needsSurface = computed(() => (this.latest() ? '' : 'Build a surface first.'));
  protected readonly designBlocked = computed(
    () =>
      this.needsSurface() ||
      (this.store.of('lines').length > 0 ? '' : 'Draw the line of the design in Lines, or import it.'),
  );
  protected readonly accuracyBlocked = computed(
    () =>
      this.needsSurface() ||
      (this.store.controlCount() > 0 ? '' : 'There are no check points yet. Import them in Intake.'),
  );
  /** Contours that say more than the check points know. */
  protected readonly finerThanSupported = computed(() => {
    const supported = this.store.newest('accuracy')?.facts.statement.interval;
    const finest = Math.min(...this.store.contours().map(({ parameters }) => Number(parameters['interval'])));
    if (supported === undefined || !(finest < supported)) return undefined;
    const unit = shortUnit(this.store.unit());
    return `Contours at ${finest} ${unit} are finer than the check points support: ${formatNumber(supported, 2)} ${unit}.`;
  });

  protected importFile(operation: 'import-surface' | 'import-grid', input: HTMLInputElement): void {
    const file = input.files?.[0];
    input.value = '';
    if (file) this.store.startWithFile(operation, file);
  }

  protected readonly stated = computed(() => {
    const rmse = this.store.newest('accuracy')?.facts.statement.open?.rmse;
    return rmse === undefined ? '' : `RMSEz ${formatNumber(rmse, 3)} ${shortUnit(this.store.unit())}`;
  });
  /** How many of a kind there are. */
  protected made(kind: ProductKindId): string {
    const count = this.store.of(kind).length;
    return count === 0 ? '' : String(count);
  }

  protected readonly latest = this.store.ground;
  protected readonly figures = computed(() => {
    const facts = this.latest()?.facts;
    const unit = shortUnit(this.store.unit());
    return facts
      ? {
          triangles: formatCount(facts.facets),
          range: formatNumber(facts.highest - facts.lowest, 2),
          rangeUnit: `${unit}, low to high`,
          area: `${formatNumber(facts.areaInPlan, 0)}`,
          areaUnit: `${unit}² in plan`,
        }
      : { triangles: '–', range: '–', rangeUnit: 'low to high', area: '–', areaUnit: 'area in plan' };
  });
  protected readonly facts = computed(() => {
    const surface = this.latest();
    if (!surface) return [];
    const unit = shortUnit(this.store.unit());
    return [
      { label: 'Points', value: formatCount(surface.facts.points) },
      { label: 'Lowest', value: `${formatNumber(surface.facts.lowest, 3)} ${unit}` },
      { label: 'Highest', value: `${formatNumber(surface.facts.highest, 3)} ${unit}` },
      { label: 'Area on the slope', value: `${formatNumber(surface.facts.areaOnSlope, 0)} ${unit}²` },
      { label: 'Longest edge', value: `${formatNumber(surface.facts.longestEdge, 2)} ${unit}` },
      { label: 'Triangles left out as too long', value: formatCount(surface.facts.facetsLeftOut) },
    ];
  });
  protected readonly surfaceBlocked = computed(() => {
    if (this.store.clouds().length === 0) return 'There is no cloud yet. Import one in Intake.';
    return this.store.classCounts().has(GROUND) ? '' : 'There are no ground points yet. Find ground in Classify first.';
  });
  protected readonly gridBlocked = computed(() =>
    this.latest() || this.store.grids().length > 0 ? '' : this.surfaceBlocked(),
  );
  protected readonly contoursBlocked = computed(() => (this.latest() ? '' : 'Build a surface first.'));
}
