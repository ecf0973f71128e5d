import { marked, type Token, type Tokens } from 'marked';
import type { ReportBlock } from './report-model.js';

/** Markdown as blocks of plain text: headings, paragraphs, lists. Markup within a line, links and HTML leave their text alone. */
export function markdownBlocks(words: string): ReportBlock[] {
  return marked.lexer(words).flatMap((token): ReportBlock[] => {
    switch (token.type) {
      case 'heading':
        return [{ kind: 'text', text: plainText((token as Tokens.Heading).tokens), isHeading: true }];
      case 'list':
        return [{ kind: 'list', items: (token as Tokens.List).items.map(({ tokens }) => plainText(tokens)) }];
      case 'space':
      case 'hr':
      case 'html':
        return [];
      default: {
        const { tokens, raw } = token as { tokens?: Token[]; raw: string };
        return [{ kind: 'text', text: tokens ? plainText(tokens) : raw.trim() }];
      }
    }
  });
}

function plainText(tokens: readonly Token[]): string {
  return tokens
    .map((token) => {
      if (token.type === 'html') return '';
      if (token.type === 'br') return '\n';
      const { tokens: inner, text } = token as { tokens?: Token[]; text?: string };
      return inner && inner.length > 0 ? plainText(inner) : unescaped(text ?? '');
    })
    .join('');
}

/** What the lexer wrote as entities. */
const unescaped = (text: string): string =>
  text
    .replaceAll('&lt;', '<')
    .replaceAll('&gt;', '>')
    .replaceAll('&quot;', '"')
    .replaceAll('&#39;', "'")
    .replaceAll('&amp;', '&');
