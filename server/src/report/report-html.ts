import type { Report, ReportBlock } from './report-model.js';

/** The report as one HTML file without anything from outside; it prints as it is read. */
export function reportHtml({ title, subtitle, surveyor, logo, sections }: Report): string {
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; img-src data:">
<title>${escaped(title)}</title>
<style>
body{font:15px/1.5 system-ui,sans-serif;color:#1c262d;background:#f5f1e8;margin:0}
main{max-width:820px;margin:0 auto;padding:40px 32px;background:#fff}
h1{font-size:27px;margin:0 0 4px}h2{font-size:19px;margin:34px 0 8px;padding-top:10px;border-top:1px solid #cfc8b8}h3{font-size:16px;margin:18px 0 4px}
.soft{color:#5d6a70}p{white-space:pre-line;margin:0 0 10px}
table{border-collapse:collapse;width:100%;margin:8px 0 14px;font-size:13px;font-variant-numeric:tabular-nums}
th{text-align:left;border-bottom:1.5px solid #1c262d}td{border-bottom:1px solid #e4ddcd;vertical-align:top}th,td{padding:4px 8px 4px 0;overflow-wrap:anywhere}
figure{margin:10px 0 16px}img{max-width:100%;border:1px solid #cfc8b8}figcaption{color:#5d6a70;font-size:13px}
.logo{float:right;max-height:70px;max-width:200px;border:0}.sign{margin-top:60px;border-top:1px solid #1c262d;width:280px;padding-top:4px;color:#5d6a70}
@media print{body{background:#fff}main{padding:0}h2,figure,tr{break-inside:avoid}}
</style></head><body><main>
${logo ? `<img class="logo" alt="" src="${dataUrl(logo)}">` : ''}<h1>${escaped(title)}</h1>
<p class="soft">${escaped(subtitle)}</p>
${sections.map(({ heading, blocks }) => `<section>${heading ? `<h2>${escaped(heading)}</h2>` : ''}${blocks.map(blockHtml).join('\n')}</section>`).join('\n')}
<div class="sign">${escaped(surveyor || 'Surveyor')}, date</div>
</main></body></html>
`;
}

function blockHtml(block: ReportBlock): string {
  switch (block.kind) {
    case 'text':
      return block.isHeading ? `<h3>${escaped(block.text)}</h3>` : `<p>${escaped(block.text)}</p>`;
    case 'list':
      return `<ul>${block.items.map((item) => `<li>${escaped(item)}</li>`).join('')}</ul>`;
    case 'table':
      return `<table><thead><tr>${block.head.map((cell) => `<th>${escaped(cell)}</th>`).join('')}</tr></thead><tbody>${block.rows
        .map((row) => `<tr>${row.map((cell) => `<td>${escaped(cell)}</td>`).join('')}</tr>`)
        .join('')}</tbody></table>`;
    case 'picture':
      return `<figure><img alt="${escaped(block.caption)}" src="${dataUrl(block.image)}"><figcaption>${escaped(block.caption)}</figcaption></figure>`;
  }
}

const dataUrl = (image: Buffer): string =>
  `data:image/${image[0] === 0x89 ? 'png' : 'jpeg'};base64,${image.toString('base64')}`;

function escaped(text: string): string {
  return text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;')
    .replaceAll("'", '&#39;');
}
