/** A report as it is read, before it is a page: the same for PDF and HTML. */
export interface Report {
  readonly title: string;
  readonly subtitle: string;
  readonly surveyor: string;
  readonly logo?: Buffer;
  readonly sections: readonly ReportSection[];
}

export interface ReportSection {
  readonly heading: string;
  readonly blocks: readonly ReportBlock[];
}

export type ReportBlock =
  | { readonly kind: 'text'; readonly text: string; readonly isStrong?: boolean; readonly isHeading?: boolean }
  | { readonly kind: 'list'; readonly items: readonly string[] }
  | {
      readonly kind: 'table';
      readonly head: readonly string[];
      readonly rows: readonly (readonly string[])[];
      /** Shares of the width. */
      readonly widths: readonly number[];
    }
  | { readonly kind: 'picture'; readonly image: Buffer; readonly caption: string };

export const text = (words: string): ReportBlock => ({ kind: 'text', text: words });
export const list = (items: readonly string[]): ReportBlock => ({ kind: 'list', items });
export const table = (
  head: readonly string[],
  rows: readonly (readonly string[])[],
  widths: readonly number[] = head.map(() => 1),
): ReportBlock => ({ kind: 'table', head, rows, widths });
