import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import { standardClasses } from '@pampero/core/cloud';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../shared/format';
import { NameDialogComponent, type NameDialogData } from '../shared/name-dialog.component';
import { LookStore } from '../state/look-store';
import { JobStore } from '../state/job-store';
import { ViewStore } from '../state/view-store';
import { PatchStore } from './patch-store';
import { SelectionStore, type DrawnAs } from './selection-store';
import { toolFacts } from './tools';
import { mustBePositive, readTyped } from '../shared/typed-field';

/** How many points are selected, of which classes, and what is to become of them. */
@Component({
  selector: 'pam-selection-bar',
  imports: [FormsModule, MatButtonModule, MatIconModule, MatMenuModule, MatTooltipModule],
  templateUrl: './selection-bar.component.html',
  styleUrl: './selection-bar.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SelectionBarComponent {
  protected readonly store = inject(JobStore);
  protected readonly views = inject(ViewStore);
  protected readonly look = inject(LookStore);
  protected readonly selection = inject(SelectionStore);
  protected readonly patches = inject(PatchStore);
  private readonly dialog = inject(MatDialog);

  protected readonly formatCount = formatCount;
  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly hasColour = computed(() => this.store.clouds().some((cloud) => cloud.columns.rgb));
  protected readonly tool = computed(() => toolFacts(this.views.tool()));
  protected readonly isOpen = computed(
    () =>
      this.tool().selects ||
      !this.selection.isEmpty() ||
      this.selection.problem() !== undefined ||
      this.selection.lastOutcome() !== undefined,
  );
  protected readonly modes: readonly { readonly id: DrawnAs; readonly name: string; readonly tip: string }[] = [
    { id: 'new', name: 'New', tip: 'What is drawn takes the place of what was selected' },
    { id: 'add', name: 'Add', tip: 'What is drawn is added; Shift does so once' },
    { id: 'take', name: 'Take away', tip: 'What is drawn is taken away; Alt does so once' },
    { id: 'keep', name: 'Within', tip: 'Only what is also within what is drawn stays selected' },
  ];

  protected readonly classChoice = signal(2);
  protected readonly classes = computed(() => {
    const own = this.store.jobClasses().filter(({ code }) => code >= 64);
    return [...standardClasses.map(({ code }) => code), ...own.map(({ code }) => code)].map((code) => ({
      code,
      name: this.look.className()(code),
    }));
  });

  protected text(value: number): string {
    return formatNumber(value, 2);
  }

  protected setLength(field: HTMLInputElement, target: 'reach' | 'heightStep' | 'limit'): void {
    const name = { reach: 'reach', heightStep: 'height step', limit: 'limit' }[target];
    const read = readTyped(field.value, { name, unit: this.store.unit(), refuse: mustBePositive });
    if ('fault' in read) this.store.say(read.fault);
    else if (read.value !== this.patches[target]()) {
      this.patches[target].set(read.value);
      this.patches.regrow();
    }
    field.value = this.text(this.patches[target]());
  }

  protected setColourStep(step: number): void {
    this.patches.colourStep.set(step);
    this.patches.regrow();
  }

  protected copy(): void {
    this.ask({ title: 'Copy to a new cloud', label: 'Name of the cloud', action: 'Copy' }, (name) =>
      this.selection.copy(name),
    );
  }

  protected keep(): void {
    this.ask({ title: 'Save the selection', label: 'Name of the selection', action: 'Keep' }, (name) =>
      this.selection.keep(name),
    );
  }

  private ask(data: NameDialogData, then: (name: string) => void): void {
    this.dialog
      .open<NameDialogComponent, NameDialogData, string>(NameDialogComponent, { data, width: '420px' })
      .afterClosed()
      .subscribe((name) => {
        if (name) then(name);
      });
  }
}
