import { ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { SurfaceFaultResource } from '@pampero/contract';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { JobStore } from '../../state/job-store';
import { LayerStore } from '../../state/layer-store';
import { ViewStore } from '../../state/view-store';
import { SurfaceEditStore, type EditMode } from './surface-edit-store';
import { readTyped } from '../../shared/typed-field';

const MODES: readonly { readonly id: EditMode; readonly name: string }[] = [
  { id: 'take-out', name: 'remove the point' },
  { id: 'swap', name: 'swap the edge' },
  { id: 'drop', name: 'remove the triangle' },
  { id: 'add', name: 'add a point' },
];
const NAMES: Readonly<Record<SurfaceFaultResource['kind'], string>> = { spike: 'Spike', pit: 'Pit', hole: 'Hole' };

/** The shown surface set right by hand: what looks wrong on it, one by one, and what a click in Plan does. */
@Component({
  selector: 'pam-surface-edit-panel',
  imports: [MatButtonModule, ScrollingModule],
  template: `
    <div class="act">
      <button
        mat-stroked-button
        type="button"
        [disabled]="edits.isLooking()"
        (click)="edits.look()"
        data-testid="find-faults"
      >
        {{ edits.isLooking() ? 'Looking…' : 'Find spikes, pits and holes' }}
      </button>
      @if (edits.faults(); as faults) {
        <span class="soft" data-testid="fault-count">{{ summary(faults) }}</span>
      }
    </div>
    @if (edits.faults()?.length) {
      <cdk-virtual-scroll-viewport itemSize="32" class="list">
        <div
          *cdkVirtualFor="let fault of edits.faults()"
          class="row"
          data-testid="surface-fault"
          [class.current]="fault === edits.currentFault()"
        >
          <button type="button" class="plain-button words" (click)="edits.show(fault)">
            {{ names[fault.kind] }} <span class="num">{{ says(fault) }}</span>
          </button>
          @if (fault.kind !== 'hole') {
            <button type="button" class="plain-button out" data-testid="take-out" (click)="edits.takeOut(fault)">
              take out
            </button>
          }
        </div>
      </cdk-virtual-scroll-viewport>
    }
    <div class="act">
      <button
        mat-stroked-button
        type="button"
        data-testid="edit-triangles"
        [class.on]="isEditing()"
        (click)="views.takeTool(isEditing() ? 'look' : 'triangles')"
      >
        {{ isEditing() ? 'Stop editing' : 'Edit triangles' }}
      </button>
      <span class="soft">{{ edited() }}</span>
    </div>
    @if (isEditing()) {
      <div class="pick" role="radiogroup" aria-label="A click in Plan will">
        @for (mode of modes; track mode.id) {
          <label [class.chosen]="edits.mode() === mode.id">
            <input
              type="radio"
              name="edit-mode"
              [value]="mode.id"
              [checked]="edits.mode() === mode.id"
              [attr.data-testid]="'edit-' + mode.id"
              (change)="edits.mode.set(mode.id)"
            />{{ mode.name }}
          </label>
        }
      </div>
      @if (edits.mode() === 'add') {
        <label class="line">
          Elevation
          <input #z class="num" inputmode="decimal" data-testid="edit-elevation" (change)="type(z)" />
          <span class="soft">{{ unit() }}</span>
        </label>
      }
      @if (edits.tooMany()) {
        <p class="soft">Zoom in to see the triangles.</p>
      }
    }
    @if (edits.fault()) {
      <p class="fault" role="alert">{{ edits.fault() }}</p>
    }
  `,
  styles: `
    .act {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 8px;
      margin: 8px 0;
    }
    .on {
      background: var(--accent-soft);
    }
    .soft {
      color: var(--ink-2);
      font-size: 12.5px;
    }
    .list {
      height: 164px;
      border: 1px solid var(--rule);
      border-radius: 5px;
      background: #fff;
    }
    .row {
      display: flex;
      align-items: center;
      height: 32px;
      padding: 0 8px;
      border-bottom: 1px solid var(--rule);
      &.current {
        background: var(--accent-soft);
      }
    }
    .words {
      flex: 1;
      text-align: left;
    }
    .out {
      color: var(--accent);
      font-size: 12.5px;
    }
    .pick {
      display: grid;
      grid-template-columns: 1fr 1fr;
      gap: 4px;
      label {
        position: relative;
        padding: 5px 8px;
        border: 1px solid var(--rule-strong);
        border-radius: 4px;
        background: #fff;
        font-size: 12.5px;
        cursor: pointer;
        &.chosen {
          border-color: var(--accent);
          background: var(--accent-soft);
        }
        &:has(:focus-visible) {
          outline: 2px solid var(--accent);
        }
      }
      input {
        position: absolute;
        inset: 0;
        margin: 0;
        opacity: 0;
        cursor: pointer;
      }
    }
    .line {
      display: flex;
      align-items: center;
      gap: 8px;
      margin-top: 8px;
      input {
        width: 90px;
        padding: 4px 6px;
        border: 1px solid var(--rule-strong);
        border-radius: 4px;
        text-align: right;
      }
    }
    .fault {
      color: #b3261e;
      font-size: 12.5px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SurfaceEditPanelComponent {
  protected readonly edits = inject(SurfaceEditStore);
  protected readonly store = inject(JobStore);
  protected readonly layers = inject(LayerStore);
  protected readonly views = inject(ViewStore);
  protected readonly modes = MODES;
  protected readonly names = NAMES;
  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly isEditing = computed(() => this.views.tool() === 'triangles');
  protected readonly edited = computed(() => {
    const count = (this.layers.shownSurface()?.parameters['edits'] as unknown[] | undefined)?.length ?? 0;
    return count === 0 ? '' : `${formatCounted(count, 'edit')} by hand, kept when it is rebuilt`;
  });

  protected summary(faults: readonly SurfaceFaultResource[]): string {
    if (faults.length === 0) return 'Nothing found.';
    const of = (kind: SurfaceFaultResource['kind']): number => faults.filter((fault) => fault.kind === kind).length;
    return (['spike', 'pit', 'hole'] as const)
      .filter((kind) => of(kind) > 0)
      .map((kind) => formatCounted(of(kind), kind))
      .join(', ');
  }

  protected says({ kind, size }: SurfaceFaultResource): string {
    return kind === 'hole' ? `${formatNumber(size, 0)} ${this.unit()}²` : `${formatNumber(size, 2)} ${this.unit()}`;
  }

  protected type(field: HTMLInputElement): void {
    if (field.value.trim() === '') return this.edits.elevation.set(undefined);
    const read = readTyped(field.value, { name: 'elevation', unit: this.store.unit() });
    if ('value' in read) return this.edits.elevation.set(read.value);
    this.store.say(read.fault);
    const before = this.edits.elevation();
    field.value = before === undefined ? '' : formatNumber(before, 3);
  }
}
