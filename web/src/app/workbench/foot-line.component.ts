import { ChangeDetectionStrategy, Component, computed, effect, inject, signal, untracked } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../shared/format';
import { formatSeconds } from '@pampero/contract';
import type { PointDetails } from '../drawing/viewer-questions';
import { DrawingLink } from '../viewer/drawing-link';
import type { PainterChoice } from '../drawing/painter-name';
import { LayerStore } from '../state/layer-store';
import { LookStore } from '../state/look-store';
import { JobStore } from '../state/job-store';
import { RendererStore } from '../state/renderer-store';
import { ViewStore } from '../state/view-store';

/** The foot of the workbench: where the cursor is, what lies there, what is running, how much is drawn. */
@Component({
  selector: 'pam-foot-line',
  imports: [MatMenuModule],
  template: `
    <span class="num place" data-testid="cursor">{{ place() }}</span>
    <span class="soft">{{ pointClass() }}</span>
    <span class="gap"></span>
    @if (running(); as run) {
      <span class="soft">{{ run.title }}: {{ run.step }}</span>
      <span
        class="pole-progress"
        role="progressbar"
        [attr.aria-valuenow]="run.percent"
        aria-valuemin="0"
        aria-valuemax="100"
        [attr.aria-label]="run.title"
      >
        <span [style.clip-path]="'inset(0 ' + (100 - run.percent) + '% 0 0)'"></span>
      </span>
      <span class="num">{{ run.percent }} %{{ run.left }}</span>
      <button class="plain-button cancel" (click)="run.cancel()" data-testid="cancel-run">Cancel</button>
    }
    <button class="plain-button soft" [matMenuTriggerFor]="painters" data-testid="painter">
      {{ drawn() }}{{ painterName() }}
    </button>
    <mat-menu #painters="matMenu" yPosition="above">
      @for (choice of choices; track choice.id) {
        <button
          mat-menu-item
          role="menuitemradio"
          [attr.aria-checked]="renderers.choice() === choice.id"
          [attr.data-testid]="'painter-' + choice.id"
          (click)="renderers.choose(choice.id)"
        >
          {{ renderers.choice() === choice.id ? '●' : '○' }} Points drawn by {{ choice.name }}
        </button>
      }
      <p class="renderer">
        WebGL here: {{ renderers.renderer()?.name ?? (renderers.renderer() === null ? 'none' : 'not asked yet') }}
      </p>
    </mat-menu>
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 16px;
      padding: 0 14px;
      font-size: 12px;
      border-top: 1px solid var(--rule-strong);
      background: var(--sheet);
      white-space: nowrap;
      overflow: hidden;
    }
    .place {
      min-width: 21em;
      color: var(--ink);
    }
    .gap {
      flex: 1;
    }
    .pole-progress {
      width: 120px;
    }
    .renderer {
      max-width: 300px;
      margin: 4px 14px 6px;
      font-size: 11.5px;
      color: var(--ink-2);
    }
    .cancel {
      color: var(--accent);
      text-decoration: underline;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class FootLineComponent {
  protected readonly store = inject(JobStore);
  protected readonly renderers = inject(RendererStore);
  protected readonly views = inject(ViewStore);
  private readonly layers = inject(LayerStore);
  private readonly look = inject(LookStore);
  private readonly link = inject(DrawingLink);
  protected readonly choices: readonly { readonly id: PainterChoice; readonly name: string }[] = [
    { id: 'automatic', name: 'whichever suits this machine' },
    { id: 'graphics', name: 'the graphics card (WebGL)' },
    { id: 'processor', name: 'the processor' },
  ];
  protected readonly painterName = computed(() =>
    this.renderers.painter() === 'graphics' ? ', by the graphics card' : '',
  );

  protected readonly place = computed(() => {
    const cursor = this.views.cursor();
    if (!cursor)
      return this.store.job()?.crs.epsg === undefined
        ? (this.store.job()?.crs.name ?? '')
        : `EPSG:${this.store.job()!.crs.epsg}, ${shortUnit(this.store.unit())}`;
    const gap = '\u2002';
    const decimals = cursor.point ? 3 : 2;
    const plan = `${formatNumber(cursor.easting, decimals)} E${gap}${formatNumber(cursor.northing, decimals)} N`;
    return cursor.elevation === undefined
      ? plan
      : `${plan}${gap}${formatNumber(cursor.elevation, decimals)} ${shortUnit(this.store.unit())}`;
  });

  /** Everything else that is known of the point under the cursor, once it has rested there. */
  private readonly details = signal('');

  constructor() {
    effect((onCleanup) => {
      const point = this.views.cursor()?.point;
      untracked(() => this.details.set(''));
      if (!point) return;
      const timer = setTimeout(() => {
        void this.link.ask('details', { point }).then((details) => {
          if (details && this.views.cursor()?.point === point) this.details.set(detailsText(details));
        });
      }, 250);
      onCleanup(() => clearTimeout(timer));
    });
  }

  /** The surface under the cursor, in words. */
  private readonly surfaceWords = computed(() => {
    const under = this.views.underCursor();
    if (!under) return '';
    if (under.elevation === undefined) return 'No surface here';
    const unit = shortUnit(this.store.unit());
    const { from } = under;
    const way =
      from && from.distance > 0
        ? `, ${formatNumber(from.distance, 2)} ${unit} and ${formatNumber((100 * from.rise) / from.distance, 1)} % from the last vertex`
        : '';
    return `Surface ${formatNumber(under.elevation, 3)} ${unit}, slope ${formatNumber(100 * under.slope, 1)} %${way}`;
  });

  protected readonly pointClass = computed(() => {
    const words = this.surfaceWords();
    if (words) return words;
    const point = this.views.cursor()?.point;
    return point ? `${this.look.className()(point.classCode)}${this.details()}` : '';
  });

  protected readonly running = computed(() => {
    const run = this.store.activeRun();
    if (!run) return undefined;
    const left = run.secondsLeft === undefined ? '' : `, ${formatSeconds(run.secondsLeft)} left`;
    return {
      title: run.title,
      step: run.step.toLowerCase(),
      percent: Math.round(run.progress * 100),
      left,
      cancel: () => this.store.cancel(run),
    };
  });

  /** What Plan and Model draw, and how much of it. */
  protected readonly drawn = computed(() => {
    const grid = this.layers.showing() === 'surface' ? this.layers.shownGrid() : undefined;
    if (grid) return `${formatCount(grid.columns)} by ${formatCount(grid.rows)} cells`;
    const surface = this.layers.drawnSurface();
    if (surface) return `${formatCount(surface.facts.facets)} triangles`;
    const drawn = formatCount(this.views.drawnPoints());
    if (this.store.totalPoints() === 0 && this.store.comingIn().length > 0)
      return `${drawn} points drawn, more coming in`;
    return `${drawn} of ${formatCount(this.store.totalPoints())} points drawn`;
  });
}

function detailsText({
  flags,
  intensity,
  returnNumber,
  returns,
  scanAngle,
  strip,
  gpsTime,
  confidence,
  accuracy,
  rgb,
}: PointDetails): string {
  const parts = [
    returns !== undefined && `return ${returnNumber} of ${returns}`,
    intensity !== undefined && `intensity ${intensity}`,
    strip !== undefined && `strip ${strip}`,
    scanAngle !== undefined && `${formatNumber(scanAngle, 1)}°`,
    gpsTime !== undefined && `${formatNumber(gpsTime, 3)} s`,
    confidence !== undefined && `confidence ${formatNumber(confidence, 2)}`,
    accuracy !== undefined && `accuracy ${formatNumber(accuracy, 3)}`,
    rgb && `RGB ${rgb.join(' ')}`,
    (flags & 4) !== 0 && 'withheld',
    (flags & 2) !== 0 && 'key point',
    (flags & 8) !== 0 && 'overlap',
    (flags & 1) !== 0 && 'synthetic',
  ];
  return parts
    .filter(Boolean)
    .map((part) => `, ${part as string}`)
    .join('');
}
