import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';

/** Something that can leave, and the formats it leaves in. */
export interface Export {
  readonly id: string;
  readonly what: string;
  readonly detail: string;
  readonly formats: readonly { readonly name: string; readonly url: string; readonly testId: string }[];
  readonly staleBecause: string | undefined;
}

/** One row of what leaves; what is put into it stands after its formats. */
@Component({
  selector: 'pam-export-row',
  imports: [MatButtonModule, MatIconModule],
  template: `
    <div class="export">
      <span
        >{{ row().what }}<small>{{ row().detail }}</small>
        @if (row().staleBecause; as because) {
          <small class="stale">Stale. {{ because }}</small>
        }
      </span>
      <span class="act">
        @for (format of row().formats; track format.name) {
          <a mat-stroked-button [href]="format.url" download [attr.data-testid]="format.testId"
            ><mat-icon svgIcon="download" />{{ format.name }}</a
          >
        }
        <ng-content />
      </span>
    </div>
  `,
  styleUrl: '../../sheets/sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ExportRowComponent {
  readonly row = input.required<Export>();
}
