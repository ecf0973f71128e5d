import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import { MatMenuModule } from '@angular/material/menu';
import { MatTooltipModule } from '@angular/material/tooltip';
import type { Pin } from '@pampero/contract';
import type { Place3 } from '@pampero/core/measuring';
import type { Selection } from '@pampero/core/selection';
import { bitsFromText } from '../shared/bits';
import { NameDialogComponent, type NameDialogData } from '../shared/name-dialog.component';
import { MeasureStore, type MeasureKind } from '../tools/measure-store';
import { SelectionStore } from '../tools/selection-store';
import type { ModelCamera, PlanCamera } from '../drawing/cameras';
import { ViewCameras } from '../viewer/view-cameras';
import type { ColourMode } from '../drawing/colour-modes';
import { LookStore } from '../state/look-store';
import { JobStore } from '../state/job-store';
import { ViewStore, type Pane, type SectionLine } from '../state/view-store';

/** How the job was looked at, as a pin keeps it. Cameras are about the scene's origin, which goes along. */
interface KeptLook {
  readonly origin: readonly [number, number, number];
  readonly plan: PlanCamera;
  readonly model: ModelCamera;
  readonly pane: Pane;
  readonly section?: SectionLine;
  readonly depth: number;
  readonly exaggeration: number;
  readonly mode: ColourMode;
  readonly hiddenClasses: readonly number[];
}

const TITLES = { view: 'Views', note: 'Notes', measure: 'Measures', selection: 'Selections' } as const;

/** What the surveyor keeps in the job: views, notes, measures and selections, to come back to. */
@Component({
  selector: 'pam-view-menu',
  imports: [MatIconModule, MatMenuModule, MatTooltipModule],
  template: `
    <button class="chip plain-button" [matMenuTriggerFor]="menu" data-testid="kept" matTooltip="Views, notes, measures">
      <mat-icon svgIcon="views" />Kept
    </button>
    <mat-menu #menu="matMenu" class="kept-menu">
      <button mat-menu-item (click)="keepView()" data-testid="keep-view">Save this view …</button>
      @for (group of groups(); track group.title) {
        <p class="group">{{ group.title }}</p>
        @for (pin of group.pins; track pin.id) {
          <button mat-menu-item class="pin" (click)="use(pin)">
            <span>{{ pin.name }}</span>
            <mat-icon
              svgIcon="bin"
              role="button"
              [attr.aria-label]="'Remove ' + pin.name"
              (click)="remove($event, pin)"
            />
          </button>
        }
      }
    </mat-menu>
  `,
  styles: `
    .group {
      margin: 4px 14px 0;
      font-size: 11.5px;
      color: var(--ink-2);
    }
  `,
  styleUrl: './chip.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ViewMenuComponent {
  private readonly store = inject(JobStore);
  private readonly views = inject(ViewStore);
  private readonly look = inject(LookStore);
  private readonly cameras = inject(ViewCameras);
  private readonly measures = inject(MeasureStore);
  private readonly selection = inject(SelectionStore);
  private readonly dialog = inject(MatDialog);

  protected readonly groups = computed(() =>
    (Object.keys(TITLES) as (keyof typeof TITLES)[])
      .map((kind) => ({ title: TITLES[kind], pins: this.store.pins().filter((pin) => pin.kind === kind) }))
      .filter(({ pins }) => pins.length > 0),
  );

  protected keepView(): void {
    const data: NameDialogData = { title: 'Save this view', label: 'Name of the view', action: 'Keep' };
    this.dialog
      .open<NameDialogComponent, NameDialogData, string>(NameDialogComponent, { data, width: '420px' })
      .afterClosed()
      .subscribe((name) => {
        if (!name) return;
        const section = this.views.section();
        const look: KeptLook = {
          origin: this.cameras.origin(),
          plan: this.cameras.plan(),
          model: this.cameras.model(),
          pane: this.views.pane(),
          ...(section && { section }),
          depth: this.views.sectionDepth(),
          exaggeration: this.views.sectionExaggeration(),
          mode: this.look.mode(),
          hiddenClasses: [...this.look.hiddenClasses()],
        };
        this.store.pin({ kind: 'view', name, look: { ...look } });
      });
  }

  protected use(pin: Pin): void {
    const { body } = pin;
    if (pin.kind === 'view') this.lookAgain(body['look'] as KeptLook);
    else if (pin.kind === 'note') this.cameras.lookAt(body['place'] as Place3);
    else if (pin.kind === 'selection') this.selection.use(revive(body['steps']) as Selection);
    else {
      this.views.takeTool('measure');
      this.measures.show(body['how'] as MeasureKind, body['places'] as Place3[], body['level'] as number | undefined);
      this.cameras.lookAt((body['places'] as Place3[])[0]!);
    }
  }

  private lookAgain(kept: KeptLook): void {
    const origin = this.cameras.origin();
    const [dx, dy, dz] = [0, 1, 2].map((axis) => kept.origin[axis]! - origin[axis]!) as [number, number, number];
    this.views.pane.set(kept.pane);
    this.views.sectionDepth.set(kept.depth);
    this.views.section.set(kept.section);
    if (kept.section) this.cameras.reframeSection();
    this.views.sectionExaggeration.set(kept.exaggeration);
    this.look.mode.set(kept.mode);
    this.look.hiddenClasses.set(new Set(kept.hiddenClasses));
    const { plan, model } = kept;
    this.cameras.plan.set({ ...plan, x: plan.x + dx, y: plan.y + dy, low: plan.low + dz, high: plan.high + dz });
    this.cameras.model.set({ ...model, x: model.x + dx, y: model.y + dy, z: model.z + dz });
    this.cameras.changed();
  }

  protected remove(event: Event, pin: Pin): void {
    event.stopPropagation();
    this.store.unpin(pin.id);
  }
}

/** Bits of points come back from base 64. */
function revive(value: unknown): unknown {
  return JSON.parse(JSON.stringify(value), (key, v: unknown) =>
    key === 'bits' && typeof v === 'string' ? bitsFromText(v) : v,
  );
}
