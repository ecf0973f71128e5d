import { createRequire } from 'node:module';
import { GAP } from '@pampero/core/wording';
import PDFDocument from 'pdfkit';

/** Letters that the fonts which every reader of PDF brings can show. */
const WESTERN = /^[\n\u0020-\u007e\u00a0-\u00ff–—‘’“”•…€™]*$/u;
/**
 * What the font that is brought along shows besides: Latin of every country, Greek, Cyrillic, Armenian, Georgian, and signs. Scripts that are written
 * from right to left or in joined letters need more than a font; of them a question mark stands for each letter.
 */
const SHOWN =
  /[^\n\u0020-\u007e\u00a0-\u052f\u0531-\u0556\u0561-\u0587\u10d0-\u10f0\u1e00-\u1ef9\u2010-\u2027\u2030-\u205e\u20a0-\u20b5\u2100-\u2149\u2190-\u21ff\u2200-\u22ff\u25a0-\u25ff]/gu;

const find = createRequire(import.meta.url);
const ttf = (name: string): string => find.resolve(`dejavu-fonts-ttf/ttf/${name}.ttf`);

/** Plain spaces for thin gaps and a plain minus, as figures are set on paper; a question mark for what no font here shows. */
export function plainForPdf(text: string): string {
  return text.replaceAll(GAP, ' ').replaceAll('−', '-').replace(SHOWN, '?');
}

/** The library's own ways of calling are several; what is given is handed on as it is. */
type Setter<T> = (...given: unknown[]) => T;

/**
 * A document whose words may be of any country: what the usual fonts cannot show is set in one that is brought along, of which the letters used go
 * into the file.
 */
export class PaperPdf extends PDFDocument {
  private chosen = 'Helvetica';
  /** The library measures words while it sets them: what is set in the other font is measured in it too. */
  private isOther = false;

  override font(...given: unknown[]): this {
    if (typeof given[0] === 'string') this.chosen = given[0];
    return (super.font as Setter<this>).apply(this, given);
  }

  override text(text: string, ...rest: unknown[]): this {
    return this.asShown(text, (shown) => (super.text as Setter<this>).call(this, shown, ...rest));
  }

  override widthOfString(text: string, ...rest: unknown[]): number {
    return this.asShown(text, (shown) => (super.widthOfString as Setter<number>).call(this, shown, ...rest));
  }

  override heightOfString(text: string, ...rest: unknown[]): number {
    return this.asShown(text, (shown) => (super.heightOfString as Setter<number>).call(this, shown, ...rest));
  }

  private asShown<T>(text: string, act: (shown: string) => T): T {
    const shown = plainForPdf(text);
    if (this.isOther || WESTERN.test(shown)) return act(shown);
    const { chosen } = this;
    super.font(ttf(chosen.endsWith('Bold') ? 'DejaVuSansCondensed-Bold' : 'DejaVuSansCondensed'));
    this.isOther = true;
    try {
      return act(shown);
    } finally {
      this.isOther = false;
      super.font(chosen);
    }
  }
}
