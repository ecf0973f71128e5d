import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import { MatIconModule } from '@angular/material/icon';
import { MatTooltipModule } from '@angular/material/tooltip';
import type { Stage } from '@pampero/contract';
import { ViewStore } from '../state/view-store';
import type { ToolId } from '../state/tool-id';
import { TOOLS } from './tools';

/** The tools, at the left edge of the drawing. */
@Component({
  selector: 'pam-tool-rail',
  imports: [MatIconModule, MatTooltipModule],
  template: `
    @for (tool of tools(); track tool.id) {
      <button
        class="plain-button"
        [class.on]="views.tool() === tool.id"
        [class.gap]="tool.id === 'section' || tool.id === 'outline'"
        [attr.aria-pressed]="views.tool() === tool.id"
        [attr.aria-label]="tool.name"
        [attr.data-testid]="'tool-' + tool.id"
        [matTooltip]="tool.name + ' (' + tool.key.toUpperCase() + ')'"
        matTooltipPosition="right"
        (click)="take(tool.id)"
      >
        <mat-icon [svgIcon]="tool.icon" />
      </button>
    }
  `,
  styles: `
    :host {
      display: flex;
      /* Downwards, and then in a next column that makes it wider: columns that wrap do not in all browsers. */
      writing-mode: vertical-lr;
      flex-wrap: wrap;
      padding: 3px;
      background: rgb(251 249 244 / 95%);
      border-radius: 5px;
      box-shadow: 0 1px 3px rgb(0 0 0 / 25%);
    }
    button {
      display: grid;
      place-content: center;
      width: 29px;
      height: 27px;
      border-radius: 4px;
      color: var(--ink-2);
      &.on {
        background: var(--accent);
        color: #fff;
      }
      &.gap {
        margin-top: 7px;
        position: relative;
        &::before {
          content: '';
          position: absolute;
          left: 4px;
          right: 4px;
          top: -4px;
          border-top: 1px solid var(--rule);
        }
      }
    }
    mat-icon {
      width: 18px;
      height: 18px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { role: 'toolbar', 'aria-label': 'Tools', 'aria-orientation': 'vertical' },
})
export class ToolRailComponent {
  protected readonly views = inject(ViewStore);
  readonly stage = input.required<Stage>();
  /** Those of every stage, of this one, and the one in hand. */
  protected readonly tools = computed(() =>
    TOOLS.filter(({ id, stage }) => stage === undefined || stage === this.stage() || id === this.views.tool()),
  );

  protected take(tool: ToolId): void {
    this.views.takeTool(this.views.tool() === tool ? 'look' : tool);
  }
}
