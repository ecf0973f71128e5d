import { CdkDrag, CdkDragHandle, CdkDropList, moveItemInArray, type CdkDragDrop } from '@angular/cdk/drag-drop';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import {
  operationById,
  operations,
  parameterFields,
  type GateStep,
  type OperationDescription,
  type ParameterField,
  type RunSheet,
  type SheetStep,
  type WorkStep,
} from '@pampero/contract';
import { ApiError } from '../../api/api-client';
import { JobStore } from '../../state/job-store';
import { RunSheetStore } from '../../state/run-sheet-store';
import { freeKey, sourcesBefore, typedValue, valueText } from './sheet-values';

export interface SheetEditorData {
  readonly sheet: RunSheet;
  /** Of the kept sheet that is changed; left out for a new one. */
  readonly id?: string;
}

interface FieldRow extends ParameterField {
  readonly text: string;
  /** Where it may come from: earlier steps and places. */
  readonly sources: readonly { readonly value: string; readonly label: string }[];
  readonly source: string;
}

/** A run sheet as a table: steps turned on and off, moved, with their parameters and the gates between them. */
@Component({
  selector: 'pam-sheet-editor-dialog',
  imports: [CdkDrag, CdkDragHandle, CdkDropList, FormsModule, MatButtonModule, MatDialogModule, MatIconModule],
  templateUrl: './sheet-editor-dialog.component.html',
  styleUrls: ['./dialogs.scss', './sheet-editor-dialog.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SheetEditorDialogComponent {
  protected readonly data = inject<SheetEditorData>(MAT_DIALOG_DATA);
  private readonly dialog = inject<MatDialogRef<SheetEditorDialogComponent, boolean>>(MatDialogRef);
  private readonly sheets = inject(RunSheetStore);
  private readonly job = inject(JobStore);

  protected readonly sheet = signal<RunSheet>(structuredClone(this.data.sheet));
  protected readonly openKey = signal('');
  protected readonly faults = signal<readonly string[]>([]);
  protected readonly adding = signal('');
  protected readonly choices = operations.map(({ id, title, stage }) => ({ id, title, stage }));

  protected readonly rows = computed(() =>
    this.sheet().steps.map((step, k) => ({
      step,
      number: k + 1,
      title: this.titleOf(step),
      summary: step.kind === 'work' ? this.summaryOf(step) : '',
      isOpen: step.key === this.openKey(),
      fields: step.key === this.openKey() && step.kind === 'work' ? this.fieldsOf(step) : [],
      sources: step.kind === 'gate' ? this.figureSteps(step) : [],
    })),
  );

  private titleOf(step: SheetStep): string {
    if (step.title) return step.title;
    if (step.kind === 'work') return operationById(step.operation)?.title ?? step.operation;
    if (step.gate.rule === 'look') return 'Gate: a look';
    return step.gate.rule === 'nothing-stale' ? 'Gate: nothing is stale' : `Gate: ${step.gate.figure}`;
  }

  private summaryOf({ parameters, isProposed, operation, file }: WorkStep): string {
    const fields = this.described(operation);
    const told = Object.entries(parameters).map(
      ([name, value]) =>
        `${fields.find((field) => field.name === name)?.label ?? name}: ${valueText(value, this.sheet())}`,
    );
    const place = this.sheet().places.find(({ key }) => key === file);
    return [place && `reads ${place.label}`, isProposed && 'settings as proposed', ...told].filter(Boolean).join(' · ');
  }

  private described(operationId: string): readonly ParameterField[] {
    const operation = operationById(operationId);
    return operation ? parameterFields(operation, 'metre') : [];
  }

  private fieldsOf(step: WorkStep): FieldRow[] {
    const sheet = this.sheet();
    return this.described(step.operation).map((field) => {
      const value = step.parameters[field.name];
      const text = valueText(value, sheet);
      if (!field.refersTo) return { ...field, text, sources: [], source: '' };
      const sources = [
        ...sourcesBefore(sheet, step).map((each) => ({
          value: `from ${each.key}`,
          label: `from ${this.titleOf(each)}`,
        })),
        ...sheet.places.flatMap(({ key, label, kind }) =>
          kind === 'clouds' && field.refersTo === 'cloud' ? [{ value: `place ${key}`, label: `given: ${label}` }] : [],
        ),
        ...(field.type === 'array'
          ? [{ value: `every ${field.refersTo}`, label: `every ${field.refersTo} of the job` }]
          : []),
      ];
      return { ...field, text, sources, source: sourceOf(value) };
    });
  }

  private figureSteps(gate: GateStep): { key: string; title: string }[] {
    const at = this.sheet().steps.findIndex(({ key }) => key === gate.key);
    return this.sheet()
      .steps.slice(0, at)
      .flatMap((step) => (step.kind === 'work' ? [{ key: step.key, title: this.titleOf(step) }] : []));
  }

  protected toggleOpen(key: string): void {
    this.openKey.update((open) => (open === key ? '' : key));
  }

  protected moved({ previousIndex, currentIndex }: CdkDragDrop<unknown>): void {
    this.sheet.update((sheet) => {
      const steps = [...sheet.steps];
      moveItemInArray(steps, previousIndex, currentIndex);
      return { ...sheet, steps };
    });
  }

  protected change(key: string, change: Partial<WorkStep> | Partial<GateStep>): void {
    this.sheet.update((sheet) => ({
      ...sheet,
      steps: sheet.steps.map((step) => (step.key === key ? ({ ...step, ...change } as SheetStep) : step)),
    }));
  }

  protected changeGate(step: GateStep, change: Record<string, unknown>): void {
    this.change(step.key, { gate: { ...step.gate, ...change } as GateStep['gate'] });
  }

  protected type(step: WorkStep, field: ParameterField, text: string): void {
    this.put(step, field.name, typedValue(text, field));
  }

  protected take(step: WorkStep, field: ParameterField, source: string): void {
    const at = source.indexOf(' ');
    const rule = source === '' ? undefined : { [source.slice(0, at)]: source.slice(at + 1) };
    this.put(step, field.name, rule && field.type === 'array' && !('every' in rule) ? [rule] : rule);
  }

  private put({ key, parameters }: WorkStep, name: string, value: unknown): void {
    const { [name]: _, ...others } = parameters;
    this.change(key, { parameters: value === undefined ? others : { ...others, [name]: value } });
  }

  protected remove(key: string): void {
    this.sheet.update((sheet) => ({
      ...sheet,
      steps: sheet.steps.filter((step) => step.key !== key),
      outputs: sheet.outputs.filter(({ of }) => of !== key),
    }));
  }

  protected add(what: string): void {
    this.adding.set('');
    if (what === '') return;
    this.sheet.update((sheet) => {
      const key = freeKey(what, sheet);
      if (what.startsWith('gate'))
        return { ...sheet, steps: [...sheet.steps, { kind: 'gate', key, isOff: false, gate: this.newGate(what) }] };
      const operation: OperationDescription = operationById(what)!;
      let { places } = sheet;
      let file: string | undefined;
      if (operation.takesFile) {
        file = freeKey(`${what.replace(/^import-/, '')}-files`, sheet);
        places = [
          ...places,
          { key: file, label: `${operation.title}: files`, help: '', kind: 'files', isOptional: false },
        ];
      }
      const step: WorkStep = {
        kind: 'work',
        key,
        operation: what,
        isOff: false,
        isProposed: false,
        parameters: {},
        ...(file && { file }),
      };
      return { ...sheet, places, steps: [...sheet.steps, step] };
    });
    this.openKey.set(this.sheet().steps.at(-1)!.key);
  }

  private newGate(what: string): GateStep['gate'] {
    if (what === 'gate-look') return { rule: 'look', question: 'Is it right?' };
    if (what === 'gate-fresh') return { rule: 'nothing-stale' };
    const of =
      this.sheet()
        .steps.filter(({ kind }) => kind === 'work')
        .at(-1)?.key ?? '';
    return { rule: 'figure', of, figure: 'RMSEz', must: 'at-most', limit: '5 cm' };
  }

  protected rename(name: string): void {
    this.sheet.update((sheet) => ({ ...sheet, name }));
  }

  protected note(notes: string): void {
    this.sheet.update((sheet) => ({ ...sheet, notes }));
  }

  protected relabel(key: string, label: string): void {
    this.sheet.update((sheet) => ({
      ...sheet,
      places: sheet.places.map((place) => (place.key === key ? { ...place, label } : place)),
    }));
  }

  protected keep(asNew: boolean): void {
    this.sheets.keep(this.sheet(), asNew ? undefined : this.data.id).subscribe({
      next: ({ sheet }) => {
        this.job.say(`Kept: ${sheet.name}`);
        this.dialog.close(true);
      },
      error: (error: unknown) => {
        const told =
          error instanceof ApiError ? (error.problem.errors ?? []).map(({ detail }) => this.inWords(detail)) : [];
        this.faults.set(told.length > 0 ? told : [error instanceof Error ? error.message : String(error)]);
      },
    });
  }

  /** "steps[3].parameters.cell: ..." with the step as the table has it. */
  private inWords(fault: string): string {
    const match = /^steps\[(\d+)\](?:\.[\w.[\]]+)?: (.*)$/.exec(fault);
    return match ? `Step ${Number(match[1]) + 1}: ${match[2]}` : fault;
  }
}

/** A rule as the choice it is in a list: "from import". */
function sourceOf(value: unknown): string {
  const [rule] = [value].flat() as unknown[];
  if (typeof rule !== 'object' || rule === null) return '';
  const [entry] = Object.entries(rule);
  return entry ? `${entry[0]} ${String(entry[1])}` : '';
}
