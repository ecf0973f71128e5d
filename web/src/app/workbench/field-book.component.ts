import { DatePipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import {
  importCloud,
  importControl,
  importLines,
  operations,
  parameterFields,
  stages,
  type HistoryEntry,
  type OperationDescription,
} from '@pampero/contract';
import type { LengthUnit } from '@pampero/core/geodesy';
import { formatFigure, formatSeconds, shortUnit } from '../shared/format';
import { JobStore } from '../state/job-store';
import { ViewStore } from '../state/view-store';

const STATE_WORDS: Readonly<Record<HistoryEntry['state'], string>> = {
  running: 'running',
  done: '',
  undone: 'taken back',
  dropped: 'taken back for good',
  failed: 'failed',
  cancelled: 'cancelled',
  interrupted: 'cut off',
};

/** The field book: every operation of the job with its parameters, figures and time. */
@Component({
  selector: 'pam-field-book',
  imports: [DatePipe, MatButtonModule, MatIconModule],
  templateUrl: './field-book.component.html',
  styleUrl: './field-book.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class FieldBookComponent {
  protected readonly store = inject(JobStore);
  protected readonly views = inject(ViewStore);
  private readonly chosenId = signal<number | undefined>(undefined);

  protected readonly rows = computed(() =>
    (this.store.history()?.entries ?? []).map((entry) => ({
      ...entry,
      stageName: stages.find((stage) => stage.id === entry.stage)!.name,
      stateWords: STATE_WORDS[entry.state],
      time: formatSeconds(entry.durationMs / 1000),
    })),
  );

  protected readonly chosen = computed(() => this.rows().find((row) => row.id === this.chosenId()) ?? this.rows()[0]);
  protected readonly figures = computed(() =>
    (this.chosen()?.figures ?? []).map((figure) => ({
      label: figure.label,
      value: formatFigure(figure, this.store.unit()),
    })),
  );
  protected readonly parameters = computed(() => {
    const entry = this.chosen();
    if (!entry) return [];
    const names = { cloud: this.store.clouds(), surface: this.store.surfaces(), contours: this.store.contours() };
    return describeParameters(
      entry,
      this.store.unit(),
      (kind, id) => names[kind].find((product) => product.id === id)?.name ?? `no. ${id}, since replaced`,
    );
  });

  protected choose(id: number): void {
    this.chosenId.set(id);
  }

  protected copy(): void {
    const entry = this.chosen();
    if (!entry) return;
    const lines = [
      `${entry.title}: ${entry.outcome}`,
      ...this.parameters().map((p) => `${p.label}: ${p.value}`),
      ...this.figures().map((f) => `${f.label}: ${f.value}`),
    ];
    void navigator.clipboard.writeText(lines.join('\n')).then(() => this.store.say('Copied.'));
  }
}

const described: readonly OperationDescription[] = [importCloud, importControl, importLines, ...operations];

/** Parameters by their labels, lengths with their unit. */
function describeParameters(
  entry: HistoryEntry,
  unit: LengthUnit,
  nameOf: (kind: 'cloud' | 'surface' | 'contours', id: number) => string,
): { label: string; value: string }[] {
  const operation = described.find((o) => o.id === entry.operation);
  if (!operation) return [];
  return parameterFields(operation, unit)
    .filter((field) => entry.parameters[field.name] !== undefined)
    .map((field) => {
      const value = entry.parameters[field.name];
      if (field.quantity === 'cloud' || field.quantity === 'surface' || field.quantity === 'contours')
        return { label: field.label, value: nameOf(field.quantity, value as number) };
      const text =
        typeof value === 'boolean' ? (value ? 'yes' : 'no') : Array.isArray(value) ? value.join(', ') : String(value);
      const suffix =
        field.quantity === 'length' || field.quantity === 'elevation'
          ? ` ${shortUnit(unit)}`
          : field.quantity === 'degrees'
            ? '°'
            : '';
      return { label: field.label, value: text + suffix };
    });
}
