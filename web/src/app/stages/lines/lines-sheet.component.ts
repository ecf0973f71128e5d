import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import {
  cutSections,
  findBreaks,
  findChannels,
  findWaterEdges,
  outlineBuildings,
  outlineMask,
  outlineVoids,
  fetchBoundaries,
  followBreak,
  importCodes,
  importLines,
  shapeLines,
} from '@pampero/contract';
import { GROUND } from '@pampero/core/cloud';
import { formatCount, formatCounted, formatNumber } from '@pampero/core/wording';
import { urlOf } from '../../api/api-client';
import { shortUnit } from '../../shared/format';
import { FigureCardsComponent } from '../../sheets/figure-cards.component';
import { OperationFormComponent } from '../../sheets/operation-form.component';
import { SheetPartComponent } from '../../sheets/sheet-part.component';
import { StaleNoticeComponent } from '../../sheets/stale-notice.component';
import { JobStore } from '../../state/job-store';
import { LineStore } from '../../state/line-store';
import { ViewStore } from '../../state/view-store';
import { SelectionStore } from '../../tools/selection-store';
import { LineEditor } from '../../tools/lines/line-editor';
import { LinePen } from '../../tools/lines/line-pen';
import { CodeDialogComponent } from './code-dialog.component';
import { ProposalQueueComponent } from './proposal-queue.component';
import { ProposalStore } from './proposal-store';
import { ShapePreview } from './shape-preview';

/** Class of water, ASPRS LAS 1.4 R15, table 17. */
const [BUILDING, WATER] = [6, 9];

/** Lines: drawn, found in the points, brought in, and given the shape they should have. */
@Component({
  selector: 'pam-lines-sheet',
  imports: [
    FigureCardsComponent,
    MatButtonModule,
    MatIconModule,
    OperationFormComponent,
    ProposalQueueComponent,
    SheetPartComponent,
    StaleNoticeComponent,
  ],
  providers: [ShapePreview],
  templateUrl: './lines-sheet.component.html',
  styleUrls: ['../../sheets/sheet.scss', './lines-sheet.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class LinesSheetComponent {
  protected readonly store = inject(JobStore);
  protected readonly views = inject(ViewStore);
  protected readonly editor = inject(LineEditor);
  protected readonly proposals = inject(ProposalStore);
  protected readonly preview = inject(ShapePreview);
  private readonly lines = inject(LineStore);
  private readonly pen = inject(LinePen);
  private readonly outlines = inject(SelectionStore);
  private readonly dialog = inject(MatDialog);

  protected readonly following = followBreak;
  protected readonly fetching = fetchBoundaries;
  protected readonly finding = findBreaks;
  protected readonly watering = findWaterEdges;
  protected readonly outlining = outlineBuildings;
  protected readonly voiding = outlineVoids;
  protected readonly masking = outlineMask;
  protected readonly draining = findChannels;
  protected readonly cutting = cutSections;
  protected readonly shaping = shapeLines;
  protected readonly importing = importLines;
  protected readonly outline = this.outlines.planOutline;

  protected readonly figures = computed(() => {
    const sets = this.store.lines();
    const sum = (pick: (facts: (typeof sets)[number]['facts']) => number): number => sets.reduce((total, { facts }) => total + pick(facts), 0); // prettier-ignore
    const unit = shortUnit(this.store.unit());
    const vertices = sum((facts) => facts.vertices);
    const known = sum((facts) => facts.withElevation);
    const count = sum((facts) => facts.lines);
    const codes = formatCounted(sets.filter(({ facts }) => facts.lines > 0).length, 'code');
    return {
      lines: formatCount(count),
      about: `${count === 1 ? 'line' : 'lines'}, ${codes}`,
      length: `${formatNumber(
        sum((facts) => facts.length),
        0,
      )} ${unit}`,
      known: vertices === 0 ? '–' : `${Math.floor((100 * known) / vertices)} %`,
    };
  });
  protected readonly blocked = computed(() => {
    if (this.store.clouds().length === 0) return 'There is no cloud yet. Import one in Intake.';
    return this.store.classCounts().has(GROUND) ? '' : 'There are no ground points yet. Find ground in Classify first.';
  });
  protected readonly waterBlocked = computed(() =>
    this.store.classCounts().has(WATER) ? '' : 'There is no water yet. Find water in Classify first.',
  );
  protected readonly roofsBlocked = computed(() =>
    this.store.classCounts().has(BUILDING) ? '' : 'There are no roofs yet. Find objects in Classify first.',
  );
  protected readonly surfaceBlocked = computed(() =>
    this.store.surfaces().length > 0 ? '' : 'There is no surface yet. Build one in Terrain first.',
  );
  protected readonly sectionsBlocked = computed(() => this.shapeBlocked() || this.surfaceBlocked());
  protected readonly sectionCount = computed(() => {
    const count = this.store.of('sections').length;
    return count === 0 ? '' : String(count);
  });
  protected readonly codesUrl = computed(() => urlOf('exportCodes', { params: { jobId: this.store.jobId() } }));
  protected readonly codeCount = computed(() => formatCounted(this.lines.codes().length, 'code'));
  protected readonly selectedKeys = computed(() => ({ keys: [...this.editor.keys()] }));
  protected readonly shapeSubject = computed(() => {
    const count = this.editor.keys().size;
    return count > 0 ? `(${count} selected)` : '';
  });
  protected readonly shapeBlocked = computed(() => (this.store.lines().length > 0 ? '' : 'There are no lines yet.'));

  protected draw(): void {
    this.views.takeTool('pen');
  }

  protected change(): void {
    this.views.takeTool('lines');
  }

  /** The guide is drawn when it is asked for; then the break is followed along it. */
  protected readonly drawGuide = (go: (given: Readonly<Record<string, unknown>>) => void): void =>
    this.pen.drawGuide('Click along the break, roughly; Enter follows it.', (guide) => go({ guide }));

  protected keepOutline(): void {
    const corners = this.outline();
    if (!corners) return;
    this.lines.put(
      [
        {
          code: this.pen.code(),
          shape: {
            easting: Float64Array.from(corners, ([e]) => e),
            northing: Float64Array.from(corners, ([, n]) => n),
            elevation: new Float64Array(corners.length).fill(NaN),
            source: new Uint8Array(corners.length),
            isClosed: true,
          },
        },
      ],
      [],
      `${this.pen.code()} from an outline`,
    );
    this.outlines.clear();
  }

  protected pickedCodes(input: HTMLInputElement): void {
    const file = input.files?.[0];
    input.value = '';
    if (file) this.store.startWithFile(importCodes.id, file);
  }

  protected editCodes(): void {
    this.dialog.open(CodeDialogComponent, { data: { store: this.store, codes: this.lines.codes() }, width: '980px', maxWidth: '94vw' }); // prettier-ignore
  }
}
