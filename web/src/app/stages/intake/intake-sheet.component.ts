import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FactsComponent } from '../../shared/facts.component';
import { MatButtonModule } from '@angular/material/button';
import { toSignal } from '@angular/core/rxjs-interop';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import type { Cloud } from '@pampero/contract';
import { catchError, map, of } from 'rxjs';
import { ApiClient } from '../../api/api-client';
import { FolderDialogComponent, type PickedPath } from './folder-dialog.component';
import { ImportDialogComponent, type ImportDialogData } from './import-dialog.component';
import { CloudReportComponent } from './cloud-report.component';
import { offeredSystem } from './offered-system';
import { PhotographPanelComponent } from './photograph-panel.component';
import { PicturePanelComponent } from './picture-panel.component';
import { ControlLookComponent } from './control-look.component';
import { formatBytes, formatCount, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { JobStore, type ImportRequest } from '../../state/job-store';

/** Intake: clouds come in, and say of themselves what a surveyor checks first. */
@Component({
  selector: 'pam-intake-sheet',
  imports: [
    FactsComponent,
    CloudReportComponent,
    ControlLookComponent,
    PhotographPanelComponent,
    PicturePanelComponent,
    MatButtonModule,
    MatIconModule,
  ],
  templateUrl: './intake-sheet.component.html',
  styleUrl: '../../sheets/sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class IntakeSheetComponent {
  protected readonly store = inject(JobStore);
  private readonly dialog = inject(MatDialog);
  protected readonly hasFolder = toSignal(
    inject(ApiClient)
      .call('listFolder', { query: {} })
      .pipe(
        map((folder) => folder.isSet),
        catchError(() => of(false)),
      ),
  );
  protected readonly unitName = computed(() => (this.store.unit() === 'metre' ? 'metre' : 'foot'));
  protected readonly isOver = signal(false);
  protected readonly isBusy = computed(() => this.store.activeRun() !== undefined);

  protected readonly figures = computed(() => {
    const clouds = this.store.clouds();
    const area = clouds.reduce((sum, cloud) => sum + areaOf(cloud), 0);
    return {
      points: formatCount(this.store.totalPoints()),
      density: area > 0 ? formatNumber(this.store.totalPoints() / area, 1) : '–',
      unit: shortUnit(this.store.unit()),
      warnings: clouds.reduce((sum, cloud) => sum + cloud.warnings.length, 0),
    };
  });

  protected readonly square = computed(() => {
    const square = this.store.job()?.square;
    if (!square) return undefined;
    const { west, south, east, north } = square.land;
    const span = (from: number, to: number): string => `${formatNumber(from, 0)} to ${formatNumber(to, 0)}`;
    return [
      { label: 'Easting of the square', value: span(west, east) },
      { label: 'Northing of the square', value: span(south, north) },
      {
        label: 'Points of neighbours within',
        value: `${formatNumber(square.margin, 0)} ${shortUnit(this.store.unit())}`,
      },
    ];
  });

  protected readonly clouds = computed(() =>
    this.store
      .clouds()
      .map((cloud) => ({ ...cloud, facts: this.factsOf(cloud), offered: offeredSystem(this.store.job(), cloud) })),
  );

  /** Files on their way in, each once: what is known of it by now. */
  protected readonly comingIn = computed(() => {
    const byName = new Map(this.store.comingIn().map((cloud) => [cloud.name, cloud]));
    return [...byName.values()].map((cloud) => ({
      name: cloud.name,
      points: formatCount(cloud.pointCount),
      density: formatNumber(cloud.pointCount / areaOf(cloud), 1),
      facts: this.factsOf(cloud),
    }));
  });

  protected setSystem(epsg: number): void {
    this.store.start('set-system', { epsg }, (error) => this.store.say(error.message));
  }

  protected picked(input: HTMLInputElement): void {
    this.importAll(input.files);
    input.value = '';
  }

  protected dropped(event: DragEvent): void {
    event.preventDefault();
    this.isOver.set(false);
    this.importAll(event.dataTransfer?.files ?? null);
  }

  protected over(event: DragEvent): void {
    event.preventDefault();
    this.isOver.set(true);
  }

  protected pickFromFolder(): void {
    this.dialog
      .open<FolderDialogComponent, undefined, readonly PickedPath[]>(FolderDialogComponent, { width: '560px' })
      .afterClosed()
      .subscribe((paths) => this.look(paths ?? []));
  }

  private importAll(files: FileList | null): void {
    this.look(files ? [...files] : []);
  }

  private look(sources: ImportDialogData['sources']): void {
    if (sources.length === 0) return;
    this.dialog
      .open<ImportDialogComponent, ImportDialogData, readonly ImportRequest[]>(ImportDialogComponent, {
        width: '760px',
        maxWidth: '94vw',
        disableClose: true,
        data: { store: this.store, sources },
      })
      .afterClosed()
      .subscribe((requests) => requests && this.store.importClouds(requests));
  }

  private factsOf(cloud: Cloud): { label: string; value: string }[] {
    const unit = shortUnit(this.store.unit());
    const { min, max } = cloud.bounds;
    const span = (axis: 0 | 1 | 2, decimals: number): string =>
      `${formatNumber(min[axis], decimals)} to ${formatNumber(max[axis], decimals)}`;
    const { source } = cloud;
    return [
      { label: 'File', value: `${source.fileName}, ${formatBytes(source.fileBytes)}` },
      { label: 'Format', value: source.format },
      {
        label: 'Coordinate system',
        value: source.crs?.epsg ? `EPSG:${source.crs.epsg}` : (source.crs?.name ?? 'none stated'),
      },
      { label: 'Easting', value: span(0, 1) },
      { label: 'Northing', value: span(1, 1) },
      { label: `Elevation, ${unit}`, value: span(2, 2) },
      { label: 'Strips', value: source.strips.length > 8 ? String(source.strips.length) : source.strips.join(', ') },
    ];
  }
}

function areaOf({ bounds: { min, max } }: Cloud): number {
  return (max[0] - min[0]) * (max[1] - min[1]);
}
