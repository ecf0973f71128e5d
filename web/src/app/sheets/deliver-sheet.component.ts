import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { formatCount } from '../shared/format';
import { WorkbenchStore } from '../workbench/workbench-store';

interface Export {
  readonly id: string;
  readonly what: string;
  readonly detail: string;
  readonly formats: readonly { readonly name: string; readonly url: string; readonly testId: string }[];
  readonly isStale: boolean;
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
    return [
      ...this.store.clouds().map((cloud) => ({
        id: `cloud-${cloud.id}`,
        what: cloud.name,
        detail: `Cloud, ${formatCount(cloud.pointCount)} points with their present classes`,
        formats: [
          { name: 'LAS 1.4', url: `${base}/clouds/${cloud.id}/las?version=1.4`, testId: 'export-las' },
          { name: 'LAS 1.2', url: `${base}/clouds/${cloud.id}/las?version=1.2`, testId: 'export-las-12' },
          { name: 'LAZ 1.2', url: `${base}/clouds/${cloud.id}/las?version=1.2&compressed=yes`, testId: 'export-laz' },
        ],
        isStale: false,
      })),
      ...this.store.surfaces().map((surface) => ({
        id: `surface-${surface.id}`,
        what: surface.name,
        detail: `Surface, ${formatCount(surface.facts.facets)} triangles${surface.isStale ? ', stale' : ''}`,
        formats: [{ name: 'LandXML', url: `${base}/surfaces/${surface.id}/landxml`, testId: 'export-landxml' }],
        isStale: surface.isStale,
      })),
      ...this.store.contours().map((set) => ({
        id: `contours-${set.id}`,
        what: set.name,
        detail: `${formatCount(set.facts.lines)} contours as 3D polylines${set.isStale ? ', stale' : ''}`,
        formats: [{ name: 'DXF', url: `${base}/contours/${set.id}/dxf`, testId: 'export-dxf' }],
        isStale: set.isStale,
      })),
    ];
  });
  protected readonly hasStale = computed(() => this.exports().some((row) => row.isStale));
}
