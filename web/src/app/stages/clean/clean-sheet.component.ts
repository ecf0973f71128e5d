import { NOISE_CLASSES } from '@pampero/core/cloud';
import { ChangeDetectionStrategy, Component, computed, effect, inject, type OnDestroy, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { cleaningOperations, joinClouds, type CleaningOperationId } from '@pampero/contract';
import type { CleaningFilter } from '@pampero/core/cleaning';
import { readFigure, readLength } from '@pampero/core/geodesy';
import { RANGE_ATTRIBUTES, RETURN_KINDS, type RangeAttribute, type ReturnKind } from '@pampero/core/selection';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { formatShare } from '@pampero/contract';
import { SelectionStore } from '../../tools/selection-store';
import { DrawingLink } from '../../viewer/drawing-link';
import { ViewCameras } from '../../viewer/view-cameras';
import type { Corridor, PreviewAnswer } from '../../drawing/viewer-questions';
import { LookStore } from '../../state/look-store';
import { JobStore } from '../../state/job-store';
import { LayerStore } from '../../state/layer-store';
import { ViewStore } from '../../state/view-store';
import { LOOKING, proposedSettings } from '../../sheets/proposed-settings';
import { OperationFormComponent } from '../../sheets/operation-form.component';

/** What is tried on the view for each search. */
const FILTERS: Readonly<Record<CleaningOperationId, CleaningFilter['kind']>> = {
  'find-low': 'low',
  'find-isolated': 'isolated',
  'find-outliers': 'outliers',
  'find-floating': 'floating',
  'find-unreliable': 'unreliable',
};

/** Clean: searches for what is not real, tried on what is seen before they run; ranges and boundaries. */
@Component({
  selector: 'pam-clean-sheet',
  imports: [FormsModule, MatButtonModule, OperationFormComponent],
  templateUrl: './clean-sheet.component.html',
  styleUrls: ['../../sheets/sheet.scss', './clean-sheet.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class CleanSheetComponent implements OnDestroy {
  protected readonly store = inject(JobStore);
  protected readonly layers = inject(LayerStore);
  protected readonly views = inject(ViewStore);
  protected readonly selection = inject(SelectionStore);
  private readonly look = inject(LookStore);
  private readonly cameras = inject(ViewCameras);
  private readonly link = inject(DrawingLink);

  /** Only where the source says how sure it is can what it is unsure of be searched. */
  protected readonly searches = computed(() =>
    cleaningOperations.filter(
      ({ id }) => id !== 'find-unreliable' || this.store.clouds().some((cloud) => cloud.hasConfidence),
    ),
  );
  protected readonly joining = joinClouds;
  protected readonly chosen = signal<CleaningOperationId>('find-low');
  protected readonly operation = computed(() => cleaningOperations.find(({ id }) => id === this.chosen())!);
  protected readonly proposed = proposedSettings(this.chosen);
  protected readonly isPreviewOn = signal(true);
  protected readonly preview = signal<PreviewAnswer | undefined>(undefined);
  /** What the form holds, as it is typed. */
  protected readonly values = signal<Record<string, unknown>>({});
  protected readonly formatCount = formatCount;
  protected readonly unit = computed(() => shortUnit(this.store.unit()));

  protected readonly blocked = computed(() =>
    this.store.clouds().length === 0 ? 'There is no cloud yet. Import one in Intake.' : this.proposed() ? '' : LOOKING,
  );
  protected readonly figures = computed(() => {
    const counts = this.store.classCounts();
    const of = (code: number): string => formatCount(counts.get(code) ?? 0);
    const noise = NOISE_CLASSES.reduce((sum, code) => sum + (counts.get(code) ?? 0), 0);
    return { low: of(7), high: of(18), share: formatShare(noise / Math.max(1, this.store.totalPoints())) };
  });

  protected readonly previewText = computed(() => {
    const preview = this.preview();
    if (!preview) return '';
    const where = this.views.section() ? 'in the section' : 'in view';
    if (preview.isTooMany) return 'Zoom in or draw a section to preview.';
    return `${formatCount(preview.found)} of ${formatCount(preview.judged)} points ${where}`;
  });

  protected readonly previewTime = computed(() => `${formatCount(this.preview()?.milliseconds ?? 0)} ms`);

  private asked = 0;

  constructor() {
    effect((onCleanup) => {
      const filter = this.isPreviewOn() ? this.filter() : undefined;
      const region = this.region();
      // Classes that changed change what takes part.
      this.store.clouds();
      const cloudId = this.cloudId();
      const toClass = Number(this.values()['toClass'] ?? 7);
      const asked = ++this.asked;
      // Once the view rests; a moved parameter is tried at once.
      const timer = setTimeout(() => {
        const preview =
          filter && region && cloudId !== undefined
            ? { filter, region, cloudId, leftOut: [...NOISE_CLASSES, toClass] }
            : undefined;
        void this.link.ask('preview', { preview }).then((answer) => {
          if (asked === this.asked) {
            this.preview.set(answer);
            this.look.ringed.set(answer?.places ?? []);
          }
        });
      }, 60);
      onCleanup(() => clearTimeout(timer));
    });
  }

  ngOnDestroy(): void {
    this.look.ringed.set([]);
    void this.link.ask('preview', { preview: undefined });
  }

  private cloudId(): number | undefined {
    const given = this.values()['clouds'] as readonly number[] | undefined;
    return given?.[0] ?? this.layers.shownClouds().at(-1)?.id;
  }

  /** The search as the form now has it; undefined while a field is none. */
  private filter(): CleaningFilter | undefined {
    const operation = cleaningOperations.find(({ id }) => id === this.chosen())!;
    const parsed = operation.parameters(this.store.unit()).safeParse({ clouds: [1], ...this.values() });
    if (!parsed.success) return undefined;
    const { clouds: _, toClass: __, stopAbove: ___, ...options } = parsed.data;
    return { kind: FILTERS[operation.id], ...options } as CleaningFilter;
  }

  /** The section's slab, or what Plan shows. */
  private readonly region = computed<Corridor | undefined>(
    () => {
      if (this.store.clouds().length === 0) return undefined;
      const line = this.views.section();
      if (line) return { ...line, half: this.views.sectionDepth() / 2 };
      const { min, max } = this.cameras.jobBounds();
      const { x, y, unitsPerPixel } = this.cameras.plan();
      const { width, height } = this.cameras.places().plan;
      const [ox, oy] = this.cameras.origin();
      const [w, h] = [(width / 2) * unitsPerPixel, (height / 2) * unitsPerPixel];
      const [west, east] = [Math.max(min[0], x + ox - w), Math.min(max[0], x + ox + w)];
      const [south, north] = [Math.max(min[1], y + oy - h), Math.min(max[1], y + oy + h)];
      if (!(east > west && north > south)) return undefined;
      return { a: [west, (south + north) / 2], b: [east, (south + north) / 2], half: (north - south) / 2 };
    },
    { equal: (p, q) => JSON.stringify(p) === JSON.stringify(q) },
  );

  // Ranges and kinds of return: they go into the selection, to be counted and looked at before anything is done.

  protected readonly attributes = RANGE_ATTRIBUTES;
  protected readonly attribute = signal<RangeAttribute>('elevation');
  protected readonly from = signal('');
  protected readonly to = signal('');
  protected readonly rangeProblem = signal('');
  protected readonly returnKinds = RETURN_KINDS;

  protected selectRange(): void {
    const isLength = this.attribute() === 'elevation' || this.attribute() === 'accuracy';
    const read = (text: string): { value?: number } | { fault: string } =>
      text.trim() === '' ? {} : isLength ? readLength(text, this.store.unit()) : readFigure(text);
    const [from, to] = [read(this.from()), read(this.to())];
    if ('fault' in from) this.rangeProblem.set(from.fault);
    else if ('fault' in to) this.rangeProblem.set(to.fault);
    else if (from.value === undefined && to.value === undefined)
      this.rangeProblem.set('Give at least one end of the range.');
    else if (from.value !== undefined && to.value !== undefined && from.value > to.value)
      this.rangeProblem.set(
        `The range runs from ${formatNumber(from.value, 2)} to ${formatNumber(to.value, 2)}. Give the lower end first.`,
      );
    else {
      this.rangeProblem.set('');
      this.selection.draw({
        kind: 'range',
        attribute: this.attribute(),
        ...(from.value !== undefined && { from: from.value }),
        ...(to.value !== undefined && { to: to.value }),
      });
    }
  }

  protected selectReturns(kind: ReturnKind): void {
    this.selection.draw({ kind: 'returns', which: [kind] });
  }

  protected readonly buffer = signal('0');
  protected readonly boundary = computed(() => this.selection.planOutline());

  protected selectBoundary(side: 'inside' | 'outside'): void {
    const corners = this.boundary();
    const buffer = readLength(this.buffer().trim() || '0', this.store.unit());
    if (!corners) this.rangeProblem.set('Draw an outline in Plan first. It becomes the boundary.');
    else if ('fault' in buffer) this.rangeProblem.set(buffer.fault);
    else {
      this.rangeProblem.set('');
      this.selection.selectBoundary(corners, buffer.value, side);
    }
  }

  /** What is searched for, under a heading that says "find": "Low points". */
  protected searchName(title: string): string {
    const [, first = '', rest = ''] = /^Find (.)(.*)$/.exec(title) ?? [];
    return first ? first.toUpperCase() + rest : title;
  }

  protected name(attribute: string): string {
    const words = attribute.replaceAll('-', ' ');
    return words === 'gps time' ? 'GPS time' : words;
  }
}
