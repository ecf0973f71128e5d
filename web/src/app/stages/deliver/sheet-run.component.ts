import { ChangeDetectionStrategy, Component, computed, inject, input, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import type { SheetRun, SheetRunStep } from '@pampero/contract';
import { formatSeconds, formatTimeLeft } from '@pampero/contract';
import { RunSheetStore } from '../../state/run-sheet-store';

const STATE_WORDS: Readonly<Record<SheetRun['state'], string>> = {
  running: 'running',
  waiting: 'waits for you',
  stopped: 'stopped',
  done: 'done',
  cancelled: 'cancelled',
};
const STEP_WORDS: Readonly<Record<SheetRunStep['state'], string>> = {
  'to-do': 'to do',
  running: 'running',
  done: 'done',
  waiting: 'waits',
  accepted: 'accepted',
  failed: 'failed',
  off: 'off',
};

/** A run sheet on its way through the job: what is done, what runs, and the gate at which it waits. */
@Component({
  selector: 'pam-sheet-run',
  imports: [FormsModule, MatButtonModule, MatIconModule],
  template: `
    <header>
      <b>{{ run().name }}</b>
      <span [class.attention]="needsSomeone()" data-testid="sheet-run-state">{{ stateWords() }}</span>
    </header>
    <div
      class="pole-progress"
      role="progressbar"
      aria-valuemin="0"
      aria-valuemax="100"
      [attr.aria-valuenow]="percent()"
      [attr.aria-label]="run().name"
    >
      <span [style.clip-path]="'inset(0 ' + (100 - percent()) + '% 0 0)'"></span>
    </div>
    <ol>
      @for (step of run().steps; track step.key) {
        <li [class]="step.state" [attr.data-testid]="'run-step-' + step.key">
          <span class="mark" [attr.aria-label]="words[step.state]" [title]="words[step.state]"></span>
          <span class="what">
            {{ step.title }}
            @if (step.outcome && step.outcome !== step.title) {
              <small>{{ step.outcome }}</small>
            }
            @if (step.reason) {
              <small class="reason">Accepted: {{ step.reason }}</small>
            }
          </span>
          @if (step.durationMs) {
            <span class="num">{{ time(step.durationMs) }}</span>
          }
        </li>
      }
    </ol>
    @if (gate(); as step) {
      <div class="notice" data-testid="gate">
        <b>{{ step.title }}</b>
        <p>{{ isLook() ? 'Look at it in the views, then write what you found.' : step.outcome }}</p>
        <label
          >{{ isLook() ? 'What was found' : 'Why it is accepted all the same' }}, for the report
          <input [ngModel]="reason()" (ngModelChange)="reason.set($event)" maxlength="500" data-testid="gate-reason" />
        </label>
        <div class="act">
          <button
            mat-flat-button
            [disabled]="reason().trim().length < 3"
            (click)="accept(step)"
            data-testid="gate-accept"
          >
            {{ isLook() ? 'It is right, go on' : 'Accept and go on' }}
          </button>
          @if (!isLook()) {
            <button mat-stroked-button (click)="sheets.goOn(run())">Check again</button>
          }
        </div>
      </div>
    } @else if (run().state === 'stopped') {
      <div class="notice">{{ run().because }}</div>
    }
    @if (isOpen()) {
      <div class="act">
        @if (run().state === 'stopped') {
          <button mat-flat-button (click)="sheets.goOn(run())" data-testid="run-go-on">Go on from there</button>
        }
        <button mat-button (click)="sheets.cancel(run())" data-testid="run-cancel">Cancel the run</button>
      </div>
    }
  `,
  styleUrls: ['../../sheets/sheet.scss', './sheet-run.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SheetRunComponent {
  readonly run = input.required<SheetRun>();
  protected readonly sheets = inject(RunSheetStore);
  protected readonly words = STEP_WORDS;
  protected readonly reason = signal('');

  protected readonly percent = computed(() => Math.round(this.run().progress * 100));
  protected readonly gate = computed(() => this.run().steps.find(({ state }) => state === 'waiting'));
  /** A person's look is asked for, not a figure. */
  protected readonly isLook = computed(() => {
    const gate = this.gate();
    return gate !== undefined && gate.figures.length === 0 && gate.outcome === gate.title;
  });
  protected readonly isOpen = computed(() => ['running', 'waiting', 'stopped'].includes(this.run().state));
  protected readonly needsSomeone = computed(() => ['waiting', 'stopped'].includes(this.run().state));
  protected readonly stateWords = computed(() => {
    const { state, secondsLeft } = this.run();
    if (state !== 'running') return STATE_WORDS[state];
    return `${this.percent()} %${secondsLeft === undefined ? '' : `, about ${formatTimeLeft(secondsLeft)} left`}`;
  });

  protected time(ms: number): string {
    return formatSeconds(ms / 1000);
  }

  protected accept(step: SheetRunStep): void {
    this.sheets.accept(this.run(), step.key, this.reason().trim());
    this.reason.set('');
  }
}
