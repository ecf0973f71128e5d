import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { MatSelectModule } from '@angular/material/select';
import { MatTooltipModule } from '@angular/material/tooltip';
import { className, standardClasses } from '@pampero/core/cloud';
import { lengthUnits } from '@pampero/core/geodesy';
import {
  parameterFields,
  presetValues,
  type OperationDescription,
  type operations,
  type ParameterField,
} from '@pampero/contract';
import { formatCount } from '../shared/format';
import { LookStore } from '../workbench/look-store';
import { WorkbenchStore } from '../workbench/workbench-store';

type Operation = (typeof operations)[number];
type Values = Record<string, unknown>;

/** The form of an operation, made from its description: fields with units and help, the run button, what is wrong beside its field. */
@Component({
  selector: 'pam-operation-form',
  imports: [FormsModule, MatButtonModule, MatCheckboxModule, MatSelectModule, MatTooltipModule],
  templateUrl: './operation-form.component.html',
  styleUrl: './operation-form.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class OperationFormComponent {
  readonly operation = input.required<Operation>();
  /** What the button does it to: "on 1 512 904 points". */
  readonly subject = input('');
  /** Values proposed in the place of the defaults, under the name they have among the presets. */
  readonly proposed = input<{ readonly label: string; readonly values: Values }>();
  /** Why it cannot be run now, or nothing. */
  readonly blocked = input('');

  protected readonly store = inject(WorkbenchStore);
  private readonly look = inject(LookStore);
  protected readonly className = className;
  /** What the form holds, whenever it changes. */
  readonly changed = output<Values>();

  protected readonly showsAll = signal(false);
  protected readonly faults = signal<Readonly<Record<string, string>>>({});

  private readonly fields = computed(() => parameterFields(this.operation(), this.store.unit()));
  protected readonly hasAdvanced = computed(() => this.fields().some((field) => field.isAdvanced));
  protected readonly shownFields = computed(() =>
    this.fields()
      .filter(
        (field) =>
          (this.showsAll() || !field.isAdvanced) &&
          !this.isSettled(field) &&
          (!field.appliesTo || [field.appliesTo.is].flat().includes(String(this.values()[field.appliesTo.name]))),
      )
      .map((field) => ({ ...field, suffix: this.suffixOf(field), options: this.optionsOf(field) })),
  );

  /** What the surveyor has entered; the job may change meanwhile without losing it. */
  private readonly entered = signal<Values>({});

  /** Sets of settings to begin with. */
  protected readonly sets = computed<{ readonly label: string; readonly values: Values }[]>(() => {
    const operation: OperationDescription = this.operation();
    const proposed = this.proposed();
    const presets = (operation.presets ?? []).map((preset) => ({
      label: preset.label,
      values: presetValues(operation, preset, this.store.unit()),
    }));
    return proposed ? [proposed, ...presets] : presets;
  });
  private readonly chosenSet = signal<string | undefined>(undefined);
  protected readonly currentSet = computed(() => this.chosenSet() ?? this.sets()[0]?.label);
  private readonly setValues = computed<Values>(
    () => this.sets().find(({ label }) => label === this.currentSet())?.values ?? {},
  );

  protected chooseSet(label: string): void {
    this.chosenSet.set(label);
    // What the set says anew replaces what was entered; the cloud stays.
    this.entered.update((entered) => ('cloudId' in entered ? { cloudId: entered['cloudId'] } : {}));
  }

  /** What was entered, else the defaults; choices of clouds and surfaces from the newest. */
  protected readonly values = computed<Values>(() => {
    const entered = this.entered();
    const given = this.setValues();
    return Object.fromEntries(
      this.fields().map((field) => {
        const options = this.optionsOf(field);
        const isThere =
          field.name in entered &&
          (!isProduct(field) || options.some((option) => option.value === entered[field.name]));
        return [field.name, isThere ? entered[field.name] : (given[field.name] ?? this.usual(field, options))];
      }),
    );
  });

  constructor() {
    effect(() => this.changed.emit(this.given()));
  }

  /** All lines there are; the newest of clouds and surfaces; otherwise the default. */
  private usual(field: ParameterField, options: readonly { value: unknown }[]): unknown {
    if (field.quantity === 'lines-list') return options.map(({ value }) => value);
    if (field.quantity === 'lines' || field.quantity === 'grid') return undefined;
    return field.default ?? options.at(-1)?.value;
  }

  /** Enters a value, as typing it would. */
  set(name: string, value: unknown): void {
    this.entered.update((entered) => ({ ...entered, [name]: value }));
    if (this.faults()[name]) this.faults.update(({ [name]: _, ...rest }) => rest);
  }

  protected run(): void {
    const parsed = this.operation().parameters(this.store.unit()).safeParse(this.given());
    if (!parsed.success) {
      this.faults.set(
        Object.fromEntries(parsed.error.issues.map((issue) => [String(issue.path[0] ?? ''), issue.message])),
      );
      return;
    }
    this.faults.set({});
    this.store.start(this.operation().id, parsed.data, ({ problem }) => {
      const byField = (problem.errors ?? []).map((error) => [error.pointer.split('/')[1] ?? '', error.detail] as const);
      this.faults.set(byField.length > 0 ? Object.fromEntries(byField) : { '': problem.detail });
    });
  }

  /** Figures typed without a unit arrive as text; empty fields fall back to their defaults. */
  private given(): Values {
    const entries = this.fields().map((field): [string, unknown] => {
      const value = this.values()[field.name];
      if (typeof value !== 'string') return [field.name, value];
      const text = value.trim();
      if (text === '') return [field.name, undefined];
      return [
        field.name,
        field.type === 'integer' || (field.type === 'number' && field.quantity !== 'length')
          ? Number(text.replace(',', '.'))
          : text,
      ];
    });
    return Object.fromEntries(entries.filter(([, value]) => value !== undefined));
  }

  /** A choice of one needs no field. */
  private isSettled(field: ParameterField): boolean {
    if (field.quantity === 'lines-list' || field.quantity === 'lines') return this.store.lines().length === 0;
    if (field.quantity === 'grid') return this.optionsOf(field).length <= 1;
    return isProduct(field) && this.optionsOf(field).length <= 1;
  }

  private suffixOf(field: ParameterField): string {
    if (field.quantity === 'length' || field.quantity === 'elevation') return lengthUnits[this.store.unit()].short;
    return field.quantity === 'degrees' ? '°' : '';
  }

  private optionsOf(field: ParameterField): { value: unknown; label: string }[] {
    switch (field.quantity) {
      case 'cloud':
        return this.store.clouds().map((cloud) => ({ value: cloud.id, label: cloud.name }));
      case 'surface':
        return this.store.surfaces().map((surface) => ({ value: surface.id, label: surface.name }));
      case 'lines':
        return [
          { value: undefined, label: 'nothing: all of it' },
          ...this.store.lines().map(({ id, name }) => ({ value: id, label: name })),
        ];
      case 'grid':
        return [
          { value: undefined, label: 'no: the surface' },
          ...this.store
            .products()
            .filter(({ kind }) => kind === 'grid')
            .map(({ id, name }) => ({ value: id, label: name })),
        ];
      case 'grid-needed':
        return this.store
          .products()
          .filter(({ kind }) => kind === 'grid')
          .map(({ id, name }) => ({ value: id, label: name }));
      case 'lines-list':
        return this.store.lines().map(({ id, name }) => ({ value: id, label: name }));
      case 'class-list':
        return this.look
          .classes()
          .map((row) => ({ value: row.code, label: `${row.code} ${row.name} (${formatCount(row.count)})` }));
      case 'class':
        return standardClasses
          .map(({ code }) => code)
          .concat(
            this.store
              .jobClasses()
              .map(({ code }) => code)
              .filter((code) => code >= 64),
          )
          .map((code) => ({ value: code, label: `${code} ${this.look.className()(code)}` }));
      default:
        return [...(field.choices ?? [])];
    }
  }
}

function isProduct({ quantity }: ParameterField): boolean {
  return quantity === 'cloud' || quantity === 'surface';
}
