import { DatePipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { MatDialog } from '@angular/material/dialog';
import { describeParameters, operationById, stages, type HistoryEntry } from '@pampero/contract';
import { EMPTY, filter, map, switchMap } from 'rxjs';
import { formatFigure, formatSeconds } from '@pampero/contract';
import { NameDialogComponent, type NameDialogData } from '../shared/name-dialog.component';
import { RunSheetStore } from '../state/run-sheet-store';
import { JobStore } from '../state/job-store';
import { JobGraphComponent } from './job-graph.component';
import { LookStore } from '../state/look-store';
import { ViewStore } from '../state/view-store';
import { toggled } from '../shared/toggled';

const STATE_WORDS: Readonly<Record<HistoryEntry['state'], string>> = {
  running: 'running',
  done: '',
  undone: 'undone',
  dropped: 'undone, not redoable',
  failed: 'failed',
  cancelled: 'cancelled',
  interrupted: 'interrupted',
};

/** The field book: every operation of the job with its parameters, figures and time. */
@Component({
  selector: 'pam-field-book',
  imports: [DatePipe, JobGraphComponent, MatButtonModule, MatIconModule],
  templateUrl: './field-book.component.html',
  styleUrl: './field-book.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class FieldBookComponent {
  protected readonly store = inject(JobStore);
  protected readonly views = inject(ViewStore);
  private readonly look = inject(LookStore);
  private readonly sheets = inject(RunSheetStore);
  private readonly dialog = inject(MatDialog);
  /** Shows what hangs on what in the place of the steps. */
  protected readonly isGraph = signal(false);
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
    const operation = operationById(entry.operation);
    if (!operation) return [];
    return describeParameters(operation, entry.parameters, this.store.unit(), {
      of: (refersTo, id) => this.store.referable(refersTo).find((one) => one.id === id)?.name,
      ofClass: (code) => `${code} ${this.look.className()(code)}`,
    });
  });

  protected choose(id: number): void {
    if (this.picked()) this.pick(id);
    this.chosenId.set(id);
  }

  /** Steps chosen for a run sheet; undefined while none are asked for. */
  protected readonly picked = signal<ReadonlySet<number> | undefined>(undefined);

  /** Begins with every step that is done and not by hand. */
  protected beginPicking(): void {
    const done = this.rows().filter(({ state, operation }) => state === 'done' && !operationById(operation)?.isQuick);
    this.picked.set(new Set(done.map(({ id }) => id)));
  }

  private pick(id: number): void {
    this.picked.update((before) => toggled(before ?? new Set(), id));
  }

  protected makeSheet(): void {
    const entries = [...(this.picked() ?? [])];
    this.dialog
      .open<NameDialogComponent, NameDialogData, string>(NameDialogComponent, {
        data: {
          title: 'New run sheet',
          label: 'Name',
          action: 'Make',
          value: `As done in ${this.store.job()?.name ?? 'this job'}`,
        },
      })
      .afterClosed()
      .pipe(
        filter((name) => name !== undefined),
        switchMap((name) => this.sheets.fromSteps(name, entries)),
        switchMap(({ sheet, leftOut }) => {
          const left = leftOut.map(({ id, because }) => `Step ${id} is left out. ${because}`).join(' ');
          if (!sheet) {
            this.store.say(left || 'None of the steps goes into a run sheet.');
            return EMPTY;
          }
          return this.sheets.keep(sheet).pipe(map(() => left));
        }),
      )
      .subscribe({
        next: (left) => {
          this.picked.set(undefined);
          this.store.say(`The run sheet is kept; it is at Deliver. ${left}`);
        },
        error: (error: unknown) => this.store.say(error instanceof Error ? error.message : String(error)),
      });
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
