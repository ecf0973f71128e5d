import { ChangeDetectionStrategy, Component, computed, effect, inject, input, output, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatCheckboxModule } from '@angular/material/checkbox';
import { MatSelectModule } from '@angular/material/select';
import { MatTooltipModule } from '@angular/material/tooltip';
import {
  parameterFields,
  presetValues,
  type OperationDescription,
  type operations,
  type ParameterField,
} from '@pampero/contract';
import { standardClasses } from '@pampero/core/cloud';
import { lengthUnits } from '@pampero/core/geodesy';
import { formatCount } from '@pampero/core/wording';
import { JobStore } from '../state/job-store';
import { LookStore } from '../state/look-store';
import { checkValues, formValues, givenValues, isAsked, type Option, type Values } from './form-values';

type Operation = (typeof operations)[number];

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
  /** Values proposed in the place of the defaults, under the name they have among the presets, and why. */
  readonly proposed = input<{
    readonly label: string;
    readonly values: Values;
    readonly reasons: readonly string[];
  }>();
  /** Values that are not in the form: what is selected, what was drawn. */
  readonly extra = input<Values>({});
  /** Asks for what is still missing when it is run, a guide to be drawn; it goes on with what it is given then. */
  readonly asksFirst = input<(go: (given: Values) => void) => void>();
  /** Makes one file of many that belong together; set where more than one may be chosen. */
  readonly packs = input<(files: readonly File[]) => Promise<File>>();
  /** Looks at a file before it is sent: values it adds, or undefined where the surveyor leaves it. */
  readonly looksFirst = input<(file: File, values: Values) => Promise<Values | undefined>>();
  /** Why it cannot be run now, or nothing. */
  readonly blocked = input('');
  /** What the form holds, whenever it changes. */
  readonly changed = output<Values>();

  protected readonly store = inject(JobStore);
  private readonly look = inject(LookStore);
  protected readonly showsAll = signal(false);
  protected readonly faults = signal<Readonly<Record<string, string>>>({});

  private readonly fields = computed(() => parameterFields(this.operation(), this.store.unit()));
  private readonly optionsByName = computed(
    () => new Map(this.fields().map((field) => [field.name, this.optionsOf(field)])),
  );
  protected readonly hasAdvanced = computed(() => this.fields().some((field) => field.isAdvanced));
  protected readonly shownFields = computed(() =>
    this.fields().flatMap((field) => {
      const options = this.optionsByName().get(field.name) ?? [];
      if ((field.isAdvanced && !this.showsAll()) || !isAsked(field, this.values(), options)) return [];
      const choices =
        field.none === undefined ? options : [{ value: undefined, label: field.none } as Option, ...options];
      return [{ ...field, suffix: this.suffixOf(field), options: choices, isList: field.type === 'array' }];
    }),
  );
  /** Faults of fields that are not asked, or of the whole. */
  protected readonly otherFault = computed(() => {
    const asked = new Set(this.shownFields().map(({ name }) => name));
    return Object.entries(this.faults()).find(([name]) => !asked.has(name))?.[1];
  });

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

  protected readonly values = computed<Values>(() =>
    formValues(this.fields(), this.entered(), this.setValues(), ({ name }) => this.optionsByName().get(name) ?? []),
  );

  constructor() {
    effect(() => this.changed.emit(givenValues(this.values())));
  }

  protected chooseSet(label: string): void {
    this.chosenSet.set(label);
    // What the set says anew replaces what was entered; clouds and products stay chosen.
    const kept = new Set(this.fields().flatMap(({ name, refersTo }) => (refersTo ? [name] : [])));
    this.entered.update((entered) => Object.fromEntries(Object.entries(entered).filter(([name]) => kept.has(name))));
  }

  /** Enters a value, as typing it would. */
  set(name: string, value: unknown): void {
    this.entered.update((entered) => ({ ...entered, [name]: value }));
    if (this.faults()[name]) this.faults.update(({ [name]: _, ...rest }) => rest);
  }

  /** Whether it works from a file, which the button then asks for. */
  protected readonly takesFile = computed(() => (this.operation() as OperationDescription).takesFile ?? false);

  /** Runs it, or asks for its file first where it works from one. */
  protected run(file?: HTMLInputElement): void {
    const asksFirst = this.asksFirst();
    if (asksFirst) asksFirst((given) => this.start(given));
    else this.start({}, file);
  }

  private start(asked: Values, file?: HTMLInputElement): void {
    const given = { ...givenValues(this.values()), ...this.extra(), ...asked };
    const { faults, parsed } = checkValues(this.operation(), this.store.unit(), given);
    this.faults.set(faults);
    if (!parsed) return;
    if (file) {
      file.click();
      return;
    }
    this.store.start(this.operation().id, parsed, ({ problem }) => {
      const byField = (problem.errors ?? []).map((error) => [error.pointer.split('/')[1] ?? '', error.detail] as const);
      this.faults.set(byField.length > 0 ? Object.fromEntries(byField) : { '': problem.detail });
    });
  }

  protected async picked(input: HTMLInputElement): Promise<void> {
    const files = [...(input.files ?? [])];
    input.value = '';
    if (files.length === 0) return;
    const file = await (this.packs()?.(files) ?? files[0]);
    if (!file) return;
    const values = givenValues(this.values());
    const looksFirst = this.looksFirst();
    const found = looksFirst ? await looksFirst(file, values) : {};
    if (!found) return;
    const { parsed } = checkValues(this.operation(), this.store.unit(), { ...values, ...this.extra(), ...found });
    if (parsed) this.store.startWithFile(this.operation().id, file, parsed);
  }

  private suffixOf(field: ParameterField): string {
    if (field.quantity === 'length' || field.quantity === 'elevation') return lengthUnits[this.store.unit()].short;
    return field.quantity === 'degrees' ? '°' : '';
  }

  private optionsOf(field: ParameterField): readonly Option[] {
    const named = ({ id, name }: { id: number; name: string }): Option => ({ value: id, label: name });
    if (field.refersTo) return this.store.referable(field.refersTo).map(named);
    if (field.quantity === 'class-list')
      return this.look
        .classes()
        .map(({ code, name, count }) => ({ value: code, label: `${code} ${name}, ${formatCount(count)}` }));
    if (field.quantity === 'class') {
      const own = this.store.jobClasses().flatMap(({ code }) => (code >= 64 ? [code] : []));
      return [...standardClasses.map(({ code }) => code), ...own].map((code) => ({
        value: code,
        label: `${code} ${this.look.className()(code)}`,
      }));
    }
    return field.choices ?? [];
  }
}
