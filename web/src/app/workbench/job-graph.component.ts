import { ChangeDetectionStrategy, Component, computed, inject, output } from '@angular/core';
import { JobStore } from '../state/job-store';
import { jobGraph, NODE_HEIGHT, NODE_WIDTH } from './job-graph';

/** What hangs on what, drawn: a click shows the step that made it. */
@Component({
  selector: 'pam-job-graph',
  template: `
    @let drawn = graph();
    @if (drawn.nodes.length === 0) {
      <p class="soft">Nothing has been made yet.</p>
    } @else {
      <svg
        [attr.width]="drawn.width"
        [attr.height]="drawn.height"
        role="group"
        aria-label="What hangs on what"
        data-testid="job-graph"
      >
        @for (edge of drawn.edges; track edge.key) {
          <path [attr.d]="edge.path" [class.stale]="edge.isStale" />
        }
        @for (node of drawn.nodes; track node.key) {
          <g
            [attr.transform]="'translate(' + node.x + ' ' + node.y + ')'"
            [class.stale]="node.isStale"
            role="button"
            tabindex="0"
            [attr.aria-label]="node.kind + ' ' + node.name + (node.isStale ? ', stale' : '')"
            (click)="pick(node.entryId)"
            (keydown.enter)="pick(node.entryId)"
          >
            <title>{{ node.name }}</title>
            <rect [attr.width]="width" [attr.height]="height" rx="5" />
            <text x="10" y="17" class="name">{{ short(node.name) }}</text>
            <text x="10" y="32" class="kind">{{ node.kind }}{{ node.isStale ? ', stale' : '' }}</text>
          </g>
        }
      </svg>
    }
  `,
  styles: `
    :host {
      display: block;
      overflow: auto;
    }
    svg {
      display: block;
      min-width: 100%;
    }
    path {
      fill: none;
      stroke: var(--rule-strong);
      stroke-width: 1.5;
    }
    path.stale {
      stroke: var(--pole);
      stroke-dasharray: 5 4;
    }
    rect {
      fill: #fff;
      stroke: var(--rule-strong);
    }
    g {
      cursor: pointer;
      outline: none;
    }
    g:hover rect,
    g:focus-visible rect {
      stroke: var(--accent);
      stroke-width: 2;
    }
    .stale rect {
      stroke: var(--pole);
      stroke-dasharray: 5 4;
    }
    text {
      font: 500 12.5px var(--words);
      fill: var(--ink);
    }
    .kind {
      font-weight: 400;
      font-size: 11px;
      fill: var(--ink-2);
    }
    .stale .kind {
      fill: var(--pole);
    }
    p {
      padding: 8px 16px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class JobGraphComponent {
  private readonly store = inject(JobStore);
  /** The entry of the field book that made what was clicked. */
  readonly picked = output<number>();
  protected readonly width = NODE_WIDTH;
  protected readonly height = NODE_HEIGHT;
  protected readonly graph = computed(() =>
    jobGraph(
      this.store.clouds(),
      this.store.products(),
      this.store.history()?.entries ?? [],
      this.store.controlCount() > 0,
    ),
  );

  protected pick(entryId: number | undefined): void {
    if (entryId !== undefined) this.picked.emit(entryId);
  }

  protected short(name: string): string {
    return name.length > 21 ? `${name.slice(0, 20)}…` : name;
  }
}
