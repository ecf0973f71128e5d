import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import { MatTooltipModule } from '@angular/material/tooltip';
import { formatCount, formatShare } from '../shared/format';
import { ClassDialogComponent } from './class-dialog.component';
import { LookStore } from './look-store';
import { WorkbenchStore } from './workbench-store';

/** What the job holds and what of it is shown: clouds, classes with count and share, surfaces, grids, contours. */
@Component({
  selector: 'pam-layers',
  imports: [MatIconModule, MatTooltipModule],
  templateUrl: './layers.component.html',
  styleUrl: './layers.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class LayersComponent {
  protected readonly store = inject(WorkbenchStore);
  protected readonly look = inject(LookStore);
  private readonly dialog = inject(MatDialog);
  protected readonly formatCount = formatCount;
  protected readonly formatShare = formatShare;

  protected readonly products = computed(() => {
    const row = (kind: string, id: number, name: string, count: number, isStale: boolean) => ({
      key: `${kind}-${id}`,
      name,
      count: formatCount(count),
      isStale,
      isShown: this.store.isShown(`${kind}-${id}`),
    });
    return {
      clouds: this.store.clouds().map((cloud) => row('cloud', cloud.id, cloud.name, cloud.pointCount, false)),
      surfaces: this.store
        .surfaces()
        .map((surface) => row('surface', surface.id, surface.name, surface.facts.facets, surface.isStale)),
      lines: this.store
        .lines()
        .map(({ id, name, facts }) => row('lines', id, name, Number(facts['lines'] ?? 0), false)),
      grids: this.store
        .grids()
        .map(({ id, name, facts, isStale }) =>
          row('grid', id, name, Number(facts['columns']) * Number(facts['rows']), isStale),
        ),
      contours: this.store.contours().map((set) => row('contours', set.id, set.name, set.facts.lines, set.isStale)),
    };
  });

  protected readonly groups = computed(() => {
    const { clouds, surfaces, grids, lines, contours } = this.products();
    return [
      { title: 'Clouds', rows: clouds, unit: 'points' },
      { title: 'Surfaces', rows: surfaces, unit: 'triangles' },
      { title: 'Grids', rows: grids, unit: 'cells' },
      { title: 'Lines', rows: lines, unit: 'lines' },
      { title: 'Contours', rows: contours, unit: 'lines' },
    ].filter((group) => group.rows.length > 0);
  });

  protected editClasses(): void {
    this.dialog.open(ClassDialogComponent, {
      data: { store: this.store, look: this.look },
      width: '780px',
      maxWidth: '92vw',
    });
  }

  protected toggle(key: string, isShown: boolean): void {
    this.store.setShown(key, !isShown);
  }
}
