import { inject, Injectable, signal } from '@angular/core';
import { REPORT_PARTS, type ReportOptionsInput, type ReportPart } from '@pampero/contract';
import { JobStore } from '../../state/job-store';

export interface ReportPicture {
  readonly caption: string;
  readonly image: string;
}

/** The report as it is being put together: kept while the job is open, so that a view can be placed and added, and the next. */
@Injectable()
export class ReportDraft {
  private readonly job = inject(JobStore);
  readonly title = signal('');
  readonly surveyor = signal('');
  readonly words = signal('');
  readonly logo = signal<string | undefined>(undefined);
  readonly parts = signal<ReadonlySet<ReportPart>>(new Set(REPORT_PARTS));
  readonly pictures = signal<readonly ReportPicture[]>([]);

  options(format: 'pdf' | 'html'): ReportOptionsInput {
    const title = this.title().trim();
    const logo = this.logo();
    return {
      format,
      surveyor: this.surveyor().trim(),
      words: this.words(),
      parts: REPORT_PARTS.filter((part) => this.parts().has(part)),
      pictures: this.pictures().map(({ caption, image }) => ({ caption, image })),
      ...(title && { title }),
      ...(logo !== undefined && { logo }),
    };
  }

  fileName(format: 'pdf' | 'html'): string {
    return `${this.title().trim() || (this.job.job()?.name ?? 'job')} report.${format}`;
  }
}
