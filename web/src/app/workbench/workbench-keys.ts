import { inject, Injectable } from '@angular/core';
import { MatDialog } from '@angular/material/dialog';
import { Router } from '@angular/router';
import { stageIds } from '@pampero/contract';
import { KeyTable, type Key } from '../shared/key-table';
import { JobStore } from '../state/job-store';
import { LookStore } from '../state/look-store';
import { ViewStore } from '../state/view-store';
import { SelectionStore } from '../tools/selection-store';
import { TOOLS } from '../tools/tools';
import { ViewCameras } from '../viewer/view-cameras';
import { VIEW_KEYS } from '../viewer/view-keys';
import { ShortcutsDialogComponent } from './shortcuts-dialog.component';

const DIGITS = [0, 1, 2, 3, 4, 5, 6, 7, 8, 9] as const;

/** The workbench's own keys: of the selection, the tools, the views and the job. */
@Injectable()
export class WorkbenchKeys {
  private readonly table = inject(KeyTable);
  private readonly store = inject(JobStore);
  private readonly views = inject(ViewStore);
  private readonly look = inject(LookStore);
  private readonly cameras = inject(ViewCameras);
  private readonly selection = inject(SelectionStore);
  private readonly router = inject(Router);
  private readonly dialog = inject(MatDialog);

  constructor() {
    this.table.add(this.selectionKeys());
    this.table.add(this.ownClassKeys());
    this.table.add(this.toolKeys());
    this.table.add(this.workbenchKeys());
    this.table.add(VIEW_KEYS);
  }

  showList(): void {
    this.dialog.open(ShortcutsDialogComponent, { width: '720px', data: this.table.rows() });
  }

  private selectionKeys(): Key[] {
    const { selection } = this;
    const when = (): boolean => !selection.isEmpty();
    const digit = (code: number, modifier: '' | 'Shift+' | 'Alt+'): Key => ({
      press: [`${modifier}Digit${code % 10}`],
      shown: '0 to 9',
      does: 'With points selected: set class 0 to 9; with Shift 10 to 19, with Alt 20 to 22',
      when,
      run: () => selection.setClass(code),
    });
    return [
      ...DIGITS.map((d) => digit(d, '')),
      ...DIGITS.map((d) => digit(10 + d, 'Shift+')),
      ...[20, 21, 22].map((code) => digit(code, 'Alt+')),
      {
        press: ['Delete'],
        shown: 'Delete',
        does: 'Withhold the selected points',
        when,
        run: () => selection.withhold(),
      },
      { press: ['Insert'], shown: 'Insert', does: 'Restore them', when, run: () => selection.restore() },
      { press: ['i'], shown: 'I', does: 'Invert the selection', when, run: () => selection.invert() },
      { press: ['r'], shown: 'R', does: 'Select again what was selected last', when: () => selection.isEmpty(), run: () => selection.repeat() }, // prettier-ignore
      { press: ['f'], shown: 'F', does: 'Focus on the selected points', when, run: () => selection.focus() },
      { press: ['h'], shown: 'H', does: 'Set them aside', when, run: () => selection.setAside() },
      {
        press: ['Escape'],
        shown: 'Esc',
        does: 'Clear the selection; leave the tool',
        when,
        run: () => selection.clear(),
      },
    ];
  }

  /** Letters that the surveyor gave to classes: known only as they are pressed. */
  private ownClassKeys(): Key[] {
    const classOf = (key: string): number | undefined =>
      this.store.jobClasses().find((own) => own.key !== undefined && own.key === key)?.code;
    return [...'abcdefghijklmnopqrstuvwxyz'].map((letter) => ({
      press: [letter],
      shown: 'A letter',
      does: 'With points selected: set the user class that has this key',
      when: () => !this.selection.isEmpty() && classOf(letter) !== undefined,
      run: () => this.selection.setClass(classOf(letter)!),
    }));
  }

  private toolKeys(): Key[] {
    return TOOLS.map(({ id, key, name, hint }) => ({
      press: [key],
      shown: key.toUpperCase(),
      does: hint ? `${name}: ${hint}` : name,
      run: () => this.views.takeTool(this.views.tool() === id ? 'look' : id),
    }));
  }

  private workbenchKeys(): Key[] {
    const { store, views, look, cameras } = this;
    return [
      ...stageIds.map((stage, k) => ({
        press: [`Digit${k + 1}`],
        shown: '1 to 8',
        does: 'Go to a stage, while nothing is selected',
        run: () => void this.router.navigate(['/jobs', store.jobId(), stage]),
      })),
      {
        press: ['v'],
        shown: 'V',
        does: 'Plan, Model, side by side',
        run: () => views.pane.update((pane) => (pane === 'plan' ? 'model' : pane === 'model' ? 'both' : 'plan')),
      },
      { press: ['c'], shown: 'C', does: 'Colour by the next attribute', run: () => look.nextMode() },
      { press: ['g'], shown: 'G', does: 'Release the focus', run: () => look.release() },
      { press: ['l'], shown: 'L', does: 'Look at the section from the other side', run: () => cameras.turnSection() },
      { press: ['w'], shown: 'W', does: 'Show the whole job', run: () => cameras.frameAll() },
      {
        press: ['b'],
        shown: 'B',
        does: 'Open or close the field book',
        run: () => views.isBookOpen.update((open) => !open),
      },
      { press: ['$mod+z'], shown: 'Ctrl Z', does: 'Undo', run: () => store.undo() },
      { press: ['$mod+Shift+z', '$mod+y'], shown: 'Ctrl Shift Z', does: 'Redo', run: () => store.redo() },
      {
        press: ['Escape'],
        shown: 'Esc',
        does: 'Clear the selection; leave the tool',
        run: () => views.takeTool('look'),
      },
      { press: ['?', 'Shift+?'], shown: '?', does: 'This list', run: () => this.showList() },
    ];
  }
}
