import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { formatSeconds } from '@pampero/contract';
import { StripEditStore } from './strip-edit-store';

/** Strips as they are edited: named, left out, and, where they go by times, drawn and split on the trajectory in Plan. */
@Component({
  selector: 'pam-strip-editor',
  imports: [FormsModule, MatButtonModule, MatIconModule],
  template: `
    @if (edits.isTimed()) {
      <fieldset class="positions">
        <legend>A click on the trajectory in Plan</legend>
        <label
          ><input
            type="radio"
            name="strip-click"
            [checked]="edits.click() === 'draw'"
            data-testid="strip-click-draw"
            (change)="edits.click.set('draw')"
          />begins a strip, the next one ends it</label
        >
        <label
          ><input
            type="radio"
            name="strip-click"
            [checked]="edits.click() === 'split'"
            data-testid="strip-click-split"
            (change)="edits.click.set('split')"
          />splits the strip there</label
        >
      </fieldset>
    }
    @if (edits.begun()) {
      <p class="soft" data-testid="strip-begun">The strip has begun. Click where it ends.</p>
    }
    @if (edits.fault()) {
      <div class="notice" role="alert">{{ edits.fault() }}</div>
    }
    <p class="soft">Strips of one name count as one.</p>
    <div class="table" tabindex="0" role="region" aria-label="Strips that are edited">
      <table>
        <thead>
          <tr>
            <th>Strip</th>
            <th>time</th>
            <th>used</th>
            <th></th>
          </tr>
        </thead>
        <tbody>
          @for (row of rows(); track $index; let k = $index) {
            <tr [class.held]="row.isLeftOut" [attr.data-testid]="'edited-strip-' + k">
              <td>
                <input
                  type="text"
                  maxlength="60"
                  aria-label="Name of the strip"
                  [ngModel]="row.name"
                  (ngModelChange)="edits.change(k, { name: $event })"
                />
              </td>
              <td class="num">{{ row.time }}</td>
              <td>
                <input
                  type="checkbox"
                  aria-label="Strip is used"
                  [checked]="!row.isLeftOut"
                  (change)="edits.change(k, { isLeftOut: !row.isLeftOut })"
                />
              </td>
              <td>
                @if (edits.isTimed()) {
                  <button class="plain-button" type="button" aria-label="Remove the strip" (click)="edits.remove(k)">
                    <mat-icon svgIcon="bin" />
                  </button>
                }
              </td>
            </tr>
          }
        </tbody>
      </table>
    </div>
    <div class="act">
      <button
        mat-flat-button
        type="button"
        [disabled]="problem() !== ''"
        data-testid="keep-strips"
        (click)="edits.keep()"
      >
        Keep these strips
      </button>
      @if (canDrawAll()) {
        <button mat-stroked-button type="button" data-testid="draw-all-strips" (click)="edits.clear()">
          Draw all anew
        </button>
      }
      <button mat-button type="button" (click)="edits.leave()">Cancel</button>
    </div>
    @if (problem()) {
      <p class="soft">{{ problem() }}</p>
    }
  `,
  styleUrls: ['../../sheets/sheet.scss', './align-table.scss'],
  styles: `
    input[type='text'] {
      width: 130px;
      padding: 1px 4px;
      border: 1px solid var(--rule);
      border-radius: 3px;
      background: var(--paper);
      font: inherit;
    }
    mat-icon {
      width: 16px;
      height: 16px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class StripEditorComponent {
  protected readonly edits = inject(StripEditStore);

  protected readonly rows = computed(() =>
    (this.edits.draft() ?? []).map(({ name, from, to, sourceId, isLeftOut }) => ({
      name,
      isLeftOut,
      time: from === undefined || to === undefined ? `ID ${sourceId ?? '–'}` : formatSeconds(to - from),
    })),
  );
  protected readonly canDrawAll = computed(
    () => this.edits.trajectory() !== undefined && (this.edits.cloud()?.columns.gpsTime ?? false),
  );
  protected readonly problem = computed(() => {
    const list = this.edits.draft() ?? [];
    if (list.length === 0) return 'Draw a strip on the trajectory.';
    if (list.some(({ name }) => name.trim() === '')) return 'Give every strip a name.';
    return list.every(({ isLeftOut }) => isLeftOut) ? 'Use one strip at least.' : '';
  });
}
