import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { stages, type Stage } from '@pampero/contract';
import { JobStore } from '../state/job-store';

/** The stages as a survey line with a mark each: where the work stands, and the way to each stage. */
@Component({
  selector: 'pam-traverse',
  imports: [RouterLink],
  template: `
    <nav aria-label="Stages" [style.--begun.%]="begunShare()">
      @for (stage of rows(); track stage.id) {
        <a
          [routerLink]="['/jobs', store.jobId(), stage.id]"
          [class]="stage.mark"
          [class.here]="stage.id === current()"
          [attr.aria-current]="stage.id === current() ? 'page' : null"
          [attr.aria-label]="stage.name + ', ' + stage.words"
          [attr.data-testid]="'stage-' + stage.id"
        >
          <i aria-hidden="true"></i>{{ stage.name }}
        </a>
      }
    </nav>
  `,
  styles: `
    nav {
      position: relative;
      display: flex;
      justify-content: space-between;
      padding: 0 14px;
      height: 100%;
    }
    nav::before {
      content: '';
      position: absolute;
      left: 46px;
      right: 46px;
      top: 24px;
      height: 1.5px;
      background:
        linear-gradient(90deg, var(--ink) var(--begun), transparent var(--begun)),
        repeating-linear-gradient(90deg, var(--ink-3) 0 5px, transparent 5px 10px);
    }
    a {
      position: relative;
      width: 66px;
      padding-top: 13px;
      text-align: center;
      font-size: 13px;
      color: var(--ink-2);
      text-decoration: none;
      border-radius: 4px;
    }
    a:hover {
      color: var(--ink);
    }
    i {
      display: block;
      position: relative;
      width: 15px;
      height: 15px;
      margin: 4px auto 5px;
      border: 1.6px solid var(--ink);
      border-radius: 50%;
      background: var(--sheet);
    }
    .hollow i {
      border-color: var(--ink-3);
    }
    .half i {
      background: linear-gradient(90deg, var(--ink) 50%, var(--sheet) 50%);
    }
    .solid i {
      background: var(--ink);
    }
    .here {
      color: var(--ink);
      font-weight: 600;
    }
    .here i::after {
      content: '';
      position: absolute;
      left: 4px;
      bottom: 13px;
      width: 4px;
      height: 13px;
      background: repeating-linear-gradient(0deg, var(--pole) 0 3.25px, #fff 3.25px 6.5px);
      outline: 0.6px solid var(--pole);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TraverseComponent {
  readonly current = input.required<Stage>();
  protected readonly store = inject(JobStore);

  private readonly words = { hollow: 'not begun', half: 'stale results', solid: 'done' } as const;
  protected readonly rows = computed(() =>
    stages.map((stage) => ({
      ...stage,
      mark: this.store.marks()[stage.id],
      words: this.words[this.store.marks()[stage.id]],
    })),
  );
  protected readonly begunShare = computed(() => {
    const last = this.rows().findLastIndex((stage) => stage.mark !== 'hollow');
    return last <= 0 ? 0 : (last / (stages.length - 1)) * 100;
  });
}
