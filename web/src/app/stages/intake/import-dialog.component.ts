import { ChangeDetectionStrategy, Component, computed, inject, signal, type OnDestroy } from '@angular/core';
import { FactsComponent } from '../../shared/facts.component';
import { toSignal } from '@angular/core/rxjs-interop';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import type { Geoid } from '@pampero/contract';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { catchError, of } from 'rxjs';
import { ApiClient } from '../../api/api-client';
import { FileSender } from '../../api/file-sender';
import { CrsFieldComponent } from '../../shared/crs-field.component';
import { formatBytes, formatCount, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { JobStore, type ImportRequest } from '../../state/job-store';
import { ExtentMapComponent } from './extent-map.component';
import { PendingFile, type SystemSource } from './pending-file';
import { TextLayoutComponent } from './text-layout.component';

export interface ImportDialogData {
  readonly store: JobStore;
  readonly sources: readonly (File | { readonly folderPath: string; readonly bytes: number })[];
}

/** Before anything comes in: what each file says of itself, where it would lie, what looks wrong, and what to make of it. */
@Component({
  selector: 'pam-import-dialog',
  imports: [
    FactsComponent,
    CrsFieldComponent,
    ExtentMapComponent,
    MatButtonModule,
    MatDialogModule,
    MatIconModule,
    TextLayoutComponent,
  ],
  templateUrl: './import-dialog.component.html',
  styleUrl: './import-dialog.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ImportDialogComponent implements OnDestroy {
  private readonly api = inject(ApiClient);
  private readonly sender = inject(FileSender);
  private readonly dialog = inject<MatDialogRef<ImportDialogComponent, readonly ImportRequest[]>>(MatDialogRef);
  private readonly data = inject<ImportDialogData>(MAT_DIALOG_DATA);

  protected readonly unit = this.data.store.unit();
  protected readonly jobSystem = this.data.store.job()?.crs.name ?? 'local';
  protected readonly jobBounds = computed(() => this.data.store.clouds().map((cloud) => cloud.bounds));
  protected readonly short = shortUnit(this.unit);
  protected readonly units = (Object.keys(lengthUnits) as LengthUnit[]).map((id) => ({
    id,
    name: lengthUnits[id].name,
  }));
  protected readonly geoids = toSignal(this.api.call('listGeoids', {}).pipe(catchError(() => of<Geoid[]>([]))), {
    initialValue: [] as Geoid[],
  });
  protected readonly problem = signal<string | undefined>(undefined);
  protected readonly files = signal(
    this.data.sources.map((source) =>
      source instanceof File
        ? new PendingFile(this.api, this.sender, this.data.store.jobId(), this.unit, source.name, source.size, source)
        : new PendingFile(
            this.api,
            this.sender,
            this.data.store.jobId(),
            this.unit,
            source.folderPath.split('/').at(-1)!,
            source.bytes,
            { folderPath: source.folderPath },
          ),
    ),
  );
  protected readonly ready = computed(() => this.files().filter((file) => file.isReady()));
  protected readonly isWaiting = computed(() =>
    this.files().some((file) => !file.isReady() && file.problem() === undefined),
  );

  ngOnDestroy(): void {
    for (const file of this.files()) file.discard();
  }

  protected remove(file: PendingFile): void {
    file.discard();
    this.files.set(this.files().filter((other) => other !== file));
    if (this.files().length === 0) this.dialog.close();
  }

  protected hasWarning(file: PendingFile): boolean {
    return file.look()?.findings.some((finding) => finding.level === 'warning') ?? false;
  }

  protected facts(file: PendingFile): { label: string; value: string }[] {
    const look = file.look();
    if (!look) return [];
    const { bounds } = look;
    const span = (axis: 0 | 1 | 2, decimals: number): string =>
      bounds ? `${formatNumber(bounds.min[axis], decimals)} to ${formatNumber(bounds.max[axis], decimals)}` : '–';
    return [
      { label: 'Format', value: look.format },
      { label: 'Points', value: look.pointCount === undefined ? 'counted on import' : formatCount(look.pointCount) },
      {
        label: 'Coordinate system',
        value: look.crs?.epsg ? `EPSG:${look.crs.epsg}` : (look.crs?.name ?? 'none stated'),
      },
      { label: 'Easting', value: span(0, 1) },
      { label: 'Northing', value: span(1, 1) },
      { label: 'Elevation', value: span(2, 2) },
      { label: 'Also holds', value: look.attributes.join(', ') || 'nothing more' },
      ...(look.sampledPoints > 0
        ? [{ label: 'Extent', value: `of the first ${formatCount(look.sampledPoints)} points` }]
        : []),
    ];
  }

  protected setSource(file: PendingFile, source: SystemSource): void {
    file.systemSource.set(source);
    file.again();
  }

  protected size(file: PendingFile): string {
    return formatBytes(file.bytes);
  }

  protected import(): void {
    try {
      this.dialog.close(this.ready().map((file) => file.request()));
    } catch (error) {
      this.problem.set((error as Error).message);
    }
  }
}
