import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatIconModule } from '@angular/material/icon';
import { MatTooltipModule } from '@angular/material/tooltip';
import { formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../shared/format';
import { JobStore } from '../state/job-store';
import { ViewStore } from '../state/view-store';
import { EXAGGERATIONS } from '../viewer/section-framing';
import { ViewCameras } from '../viewer/view-cameras';
import { mustBePositive, readTyped } from '../shared/typed-field';

/** Over the section: its depth, the step of the arrow keys, how often heights are drawn out. */
@Component({
  selector: 'pam-section-bar',
  imports: [FormsModule, MatIconModule, MatTooltipModule],
  template: `
    <b>Section A–A′</b>
    <label
      >depth
      <input
        #depth
        class="num"
        [value]="depthText()"
        (change)="setDepth(depth)"
        data-testid="section-depth"
        aria-label="Section depth"
      />
      {{ unit() }}</label
    >
    <label
      >step
      <input
        #step
        class="num"
        [value]="stepText()"
        (change)="setStep(step)"
        data-testid="section-step"
        aria-label="Step of the arrow keys"
      />
      {{ unit() }}</label
    >
    <label
      >heights
      <select
        [ngModel]="views.sectionExaggeration()"
        (ngModelChange)="views.sectionExaggeration.set(+$event)"
        aria-label="Vertical exaggeration"
      >
        @for (times of exaggerations; track times) {
          <option [value]="times">{{ times }}×</option>
        }
      </select>
    </label>
    <button class="plain-button" (click)="cameras.turnSection()" matTooltip="Look from the other side (L)">
      Look back
    </button>
    <span class="soft walk">arrow keys walk it</span>
    <button
      class="plain-button"
      (click)="views.section.set(undefined)"
      data-testid="close-section"
      aria-label="Close the section"
    >
      <mat-icon svgIcon="close" />
    </button>
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 14px;
      height: 29px;
      padding: 0 10px 0 14px;
      font-size: 12.5px;
      background: rgb(251 249 244 / 92%);
      border-bottom: 1px solid var(--rule);
    }
    label {
      color: var(--ink-2);
    }
    input {
      width: 52px;
      border: 1px solid var(--rule-strong);
      border-radius: 3px;
      background: #fff;
      text-align: right;
      padding: 1px 5px;
    }
    select {
      border: 1px solid var(--rule-strong);
      border-radius: 3px;
      background: #fff;
    }
    .walk {
      flex: 1;
      text-align: right;
    }
    mat-icon {
      display: block;
      width: 17px;
      height: 17px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SectionBarComponent {
  private readonly store = inject(JobStore);
  protected readonly views = inject(ViewStore);
  protected readonly cameras = inject(ViewCameras);
  protected readonly exaggerations = EXAGGERATIONS;
  protected readonly unit = computed(() => shortUnit(this.store.unit()));
  protected readonly depthText = computed(() => formatNumber(this.views.sectionDepth(), 2));
  protected readonly stepText = computed(() => formatNumber(this.views.sectionStep(), 2));

  protected setDepth(field: HTMLInputElement): void {
    const depth = this.read(field, 'depth');
    if (depth !== undefined) this.views.sectionDepth.set(depth);
    field.value = this.depthText();
  }

  protected setStep(field: HTMLInputElement): void {
    // An empty field is the usual step, which is the depth.
    const step = field.value.trim() === '' ? undefined : this.read(field, 'step');
    if (step !== undefined || field.value.trim() === '') this.views.ownSectionStep.set(step);
    field.value = this.stepText();
  }

  /** A field that goes back to what it was says why. */
  private read(field: HTMLInputElement, what: string): number | undefined {
    const read = readTyped(field.value, { name: what, unit: this.store.unit(), refuse: mustBePositive });
    if ('value' in read) return read.value;
    this.store.say(read.fault);
    return undefined;
  }
}
