import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import type { Cloud, ProductFileFormat } from '@pampero/contract';
import { formatCount, formatNumber, shortUnit } from '../shared/format';
import { ExportPointsDialogComponent, type ExportPointsData } from './export-points-dialog.component';
import { WorkbenchStore } from '../workbench/workbench-store';

interface Export {
  readonly id: string;
  readonly what: string;
  readonly detail: string;
  readonly formats: readonly { readonly name: string; readonly url: string; readonly testId: string }[];
  readonly isStale: boolean;
  /** Set where more can be chosen than the form. */
  readonly cloud?: Cloud;
}

/** Deliver: what leaves the job, and in which form. */
@Component({
  selector: 'pam-deliver-sheet',
  imports: [MatButtonModule, MatIconModule],
  template: `
    @if (hasStale()) {
      <div class="notice">
        Some of this is stale: its classes have changed since it was made. Rebuild it in Terrain before it leaves.
      </div>
    }
    @for (row of exports(); track row.id) {
      <div class="export">
        <span
          >{{ row.what }}<small>{{ row.detail }}</small></span
        >
        <span class="act">
          @for (format of row.formats; track format.name) {
            <a mat-stroked-button [href]="format.url" download [attr.data-testid]="format.testId"
              ><mat-icon svgIcon="download" />{{ format.name }}</a
            >
          }
          @if (row.cloud; as cloud) {
            <button mat-stroked-button (click)="choose(cloud)" data-testid="export-choose">
              Other forms, some points …
            </button>
          }
        </span>
      </div>
    } @empty {
      <p class="soft">Nothing to hand over yet: import a cloud in Intake.</p>
    }
    <h3>The whole job</h3>
    <div class="export">
      <span
        >One file with everything<small
          >Clouds, classes, surfaces, contours and the field book; it can be put back on the Jobs page.</small
        ></span
      >
      <span class="act"
        ><a mat-stroked-button [href]="'/api/jobs/' + store.jobId() + '/file'" download data-testid="download-job"
          ><mat-icon svgIcon="download" />Job</a
        ></span
      >
    </div>
  `,
  styleUrl: './sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class DeliverSheetComponent {
  protected readonly store = inject(WorkbenchStore);

  protected readonly exports = computed<Export[]>(() => {
    const base = `/api/jobs/${this.store.jobId()}`;
    const files = (id: number, forms: Partial<Record<ProductFileFormat, string>>): Export['formats'] =>
      Object.entries(forms).map(([format, name]) => ({
        name,
        url: `${base}/products/${id}/file?format=${format}`,
        testId: `export-${format}`,
      }));
    return [
      ...this.store.clouds().map((cloud) => ({
        id: `cloud-${cloud.id}`,
        what: cloud.name,
        detail: `Cloud, ${formatCount(cloud.pointCount)} points with their present classes`,
        formats: [
          { name: 'LAS 1.4', url: `${base}/clouds/${cloud.id}/points?format=las`, testId: 'export-las' },
          { name: 'LAZ', url: `${base}/clouds/${cloud.id}/points?format=laz`, testId: 'export-laz' },
        ],
        isStale: false,
        cloud,
      })),
      ...this.store.surfaces().map((surface) => ({
        id: `surface-${surface.id}`,
        what: surface.name,
        detail: `Surface, ${formatCount(surface.facts.facets)} triangles${surface.isStale ? ', stale' : ''}`,
        formats: [
          { name: 'LandXML', url: `${base}/surfaces/${surface.id}/landxml`, testId: 'export-landxml' },
          ...files(surface.id, { 'faces-dxf': 'DXF faces', ply: 'PLY', glb: 'GLB' }),
        ],
        isStale: surface.isStale,
      })),
      ...this.store.contours().map((set) => ({
        id: `contours-${set.id}`,
        what: set.name,
        detail: `${formatCount(set.facts.lines)} contours as 3D polylines${set.isStale ? ', stale' : ''}`,
        formats: [
          { name: 'DXF', url: `${base}/contours/${set.id}/dxf`, testId: 'export-dxf' },
          ...files(set.id, {
            gpkg: 'GeoPackage',
            shp: 'Shapefile',
            geojson: 'GeoJSON',
            ...(set.parameters['gridId'] === undefined && { bands: 'Bands' }),
          }),
        ],
        isStale: set.isStale,
      })),
      ...this.store.products().flatMap((product): Export[] => {
        const { id, kind, name, isStale, facts } = product;
        const stale = isStale ? ', stale' : '';
        if (kind === 'grid')
          return [
            {
              id: `grid-${id}`,
              what: name,
              detail: `Grid, ${formatCount(Number(facts['columns']))} by ${formatCount(Number(facts['rows']))} cells${stale}`,
              formats: files(id, {
                tif: 'GeoTIFF',
                tint: 'Tints',
                hillshade: 'Hillshade',
                slope: 'Slope',
                asc: 'ASCII grid',
                xyz: 'XYZ',
              }),
              isStale,
            },
          ];
        if (kind === 'volume')
          return [
            {
              id: `volume-${id}`,
              what: name,
              detail: `Volume${stale}`,
              formats: files(id, { 'volume-csv': 'CSV' }),
              isStale,
            },
          ];
        if (kind === 'profile')
          return [
            {
              id: `profile-${id}`,
              what: name,
              detail: `Profile, ${formatNumber(Number(facts['length']), 1)} ${shortUnit(this.store.unit())}${stale}`,
              formats: files(id, { 'profile-csv': 'CSV' }),
              isStale,
            },
          ];
        if (kind === 'accuracy')
          return [
            {
              id: `accuracy-${id}`,
              what: name,
              detail: `Statement of accuracy${stale}`,
              formats: files(id, { pdf: 'PDF', csv: 'CSV' }),
              isStale,
            },
          ];
        if (kind === 'spots')
          return [
            {
              id: `spots-${id}`,
              what: name,
              detail: `${formatCount(Number(facts['count']))} numbered points`,
              formats: files(id, {
                'points-pnezd': 'CSV: P N E Z D',
                'points-penzd': 'P E N Z D',
                'points-nezd': 'N E Z D',
                'points-enzd': 'E N Z D',
                'points-dxf': 'DXF',
              }),
              isStale,
            },
          ];
        if (kind === 'lines')
          return [
            {
              id: `lines-${id}`,
              what: name,
              detail: `${formatCount(Number(facts['lines']))} lines`,
              formats: [{ name: 'GeoJSON', url: `${base}/lines/${id}`, testId: 'export-lines' }],
              isStale,
            },
          ];
        return [];
      }),
    ];
  });
  private readonly dialog = inject(MatDialog);
  protected readonly hasStale = computed(() => this.exports().some((row) => row.isStale));

  protected choose(cloud: Cloud): void {
    this.dialog.open<ExportPointsDialogComponent, ExportPointsData>(ExportPointsDialogComponent, {
      width: '720px',
      maxWidth: '94vw',
      data: { jobId: this.store.jobId(), unit: this.store.unit(), cloud },
    });
  }
}
