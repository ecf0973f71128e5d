import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { MatIconModule } from '@angular/material/icon';

/** A part of a sheet that folds away under its heading; what belongs to it is said beside the heading when it is folded. */
@Component({
  selector: 'pam-sheet-part',
  imports: [MatIconModule],
  template: `
    <details [open]="open()">
      <summary [attr.data-testid]="'part-' + name()">
        <mat-icon svgIcon="fold" aria-hidden="true" />
        <span class="name">{{ heading() }}</span>
        @if (aside()) {
          <span class="aside">{{ aside() }}</span>
        }
      </summary>
      <div class="body"><ng-content /></div>
    </details>
  `,
  styles: `
    :host {
      display: block;
      border-top: 1px solid var(--rule);
    }
    summary {
      display: flex;
      align-items: center;
      gap: 6px;
      padding: 9px 0;
      cursor: pointer;
      list-style: none;
    }
    summary::-webkit-details-marker {
      display: none;
    }
    summary:focus-visible {
      outline: 2px solid var(--accent);
      outline-offset: 2px;
    }
    mat-icon {
      width: 16px;
      height: 16px;
      flex: none;
      color: var(--ink-2);
      transition: transform 0.12s;
    }
    details[open] > summary mat-icon {
      transform: rotate(90deg);
    }
    .name {
      font-weight: 600;
    }
    .aside {
      margin-left: auto;
      color: var(--ink-2);
      font-size: 12.5px;
      white-space: nowrap;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .body {
      padding-bottom: 12px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SheetPartComponent {
  readonly heading = input.required<string>();
  /** What tests and links call it. */
  readonly name = input('');
  /** A few words or a figure at the end of the heading. */
  readonly aside = input('');
  /** Whether it begins unfolded. */
  readonly open = input(false);
}
