import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatSelectModule } from '@angular/material/select';
import { MatTooltipModule } from '@angular/material/tooltip';
import { planLength } from '@pampero/core/lines';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { readTyped } from '../../shared/typed-field';
import { JobStore } from '../../state/job-store';
import { LineStore } from '../../state/line-store';
import { ViewStore } from '../../state/view-store';
import { LineEditor } from './line-editor';
import { LinePen } from './line-pen';
import { HEIGHT_SOURCE_NAMES, HEIGHT_SOURCES, LinePlaces, type Pull } from './line-places';

/** Beside the drawing while lines are drawn or changed: how, and what is read of it. */
@Component({
  selector: 'pam-line-bar',
  imports: [FormsModule, MatSelectModule, MatTooltipModule],
  templateUrl: './line-bar.component.html',
  styleUrls: ['../bar.scss', './line-bar.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class LineBarComponent {
  protected readonly store = inject(JobStore);
  protected readonly views = inject(ViewStore);
  protected readonly lines = inject(LineStore);
  protected readonly pen = inject(LinePen);
  protected readonly editor = inject(LineEditor);
  protected readonly places = inject(LinePlaces);

  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly heightSources = HEIGHT_SOURCES;
  protected readonly heightNames = HEIGHT_SOURCE_NAMES;
  protected readonly pulls: readonly { readonly id: Pull; readonly name: string }[] = [
    { id: 'point', name: 'points' },
    { id: 'corner', name: 'vertices' },
    { id: 'side', name: 'lines' },
    { id: 'crossing', name: 'crossings' },
    { id: 'perpendicular', name: 'square' },
  ];
  protected readonly selection = computed(() => {
    const lines = this.editor.selected();
    const codes = [...new Set(lines.map(({ code }) => code))];
    const length = lines.reduce((sum, line) => sum + planLength(line), 0);
    return {
      count: lines.length,
      title:
        lines.length === 0
          ? 'No line selected'
          : `${formatCounted(lines.length, 'line')}, ${formatNumber(length, 2)} ${this.unit()}`,
      code: codes.length === 1 ? codes[0] : undefined,
    };
  });
  protected readonly corner = computed(() => {
    const at = this.editor.activeCorner();
    return (
      at && {
        ...at,
        number: at.corner + 1,
        of: at.line.easting.length,
        easting: at.e.toFixed(3),
        northing: at.n.toFixed(3),
        elevation: Number.isNaN(at.z) ? '' : at.z.toFixed(3),
      }
    );
  });

  protected setLength(
    field: HTMLInputElement,
    name: string,
    set: (value: number) => void,
    now: () => number | undefined,
  ): void {
    const text = field.value.trim();
    const read = readTyped(text, { name, unit: this.store.unit() });
    if ('value' in read) set(read.value);
    else this.store.say(read.fault);
    const value = now();
    field.value = value === undefined ? '' : String(value);
  }

  protected setCorner(field: HTMLInputElement, axis: 'e' | 'n' | 'z', shown: string): void {
    const read = readTyped(field.value, { name: { e: 'easting', n: 'northing', z: 'elevation' }[axis], unit: this.store.unit() }); // prettier-ignore
    if ('value' in read) this.editor.setCorner({ [axis]: read.value });
    else {
      this.store.say(read.fault);
      field.value = shown;
    }
  }
}
