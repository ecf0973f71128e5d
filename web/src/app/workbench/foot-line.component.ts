import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { className } from '@pampero/core/cloud';
import { formatCount, formatNumber, formatSeconds, shortUnit } from '../shared/format';
import { WorkbenchStore } from './workbench-store';

/** The foot of the workbench: where the cursor is, what lies there, what is running, how much is drawn. */
@Component({
  selector: 'pam-foot-line',
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
    <span class="soft">drawn {{ drawn() }} of {{ total() }}</span>
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
    .cancel {
      color: var(--accent);
      text-decoration: underline;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class FootLineComponent {
  private readonly store = inject(WorkbenchStore);

  protected readonly place = computed(() => {
    const cursor = this.store.cursor();
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

  protected readonly pointClass = computed(() => {
    const point = this.store.cursor()?.point;
    return point ? className(point.classCode) : '';
  });

  protected readonly running = computed(() => {
    const upload = this.store.upload();
    if (upload)
      return {
        title: upload.fileName,
        step: 'sending',
        percent: Math.round(upload.sent * 100),
        left: '',
        cancel: () => this.store.cancelUpload(),
      };
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

  protected readonly drawn = computed(() => formatCount(this.store.drawnPoints()));
  protected readonly total = computed(() => formatCount(this.store.totalPoints()));
}
