import { execFileSync } from 'node:child_process';
import { createWriteStream, mkdtempSync, rmSync } from 'node:fs';
import { once } from 'node:events';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { PaperPdf, plainForPdf } from './pdf-document.js';

const folder = mkdtempSync(join(tmpdir(), 'pampero-pdf-'));
afterAll(() => rmSync(folder, { recursive: true }));

/** The words of a document as another program reads them (poppler's pdftotext), and its fonts. */
async function readBack(draw: (pdf: PaperPdf) => void): Promise<{ words: string; fonts: string; bytes: number }> {
  const path = join(folder, 'page.pdf');
  const pdf = new PaperPdf({ size: 'A4' });
  const file = createWriteStream(path);
  pdf.pipe(file);
  draw(pdf);
  pdf.end();
  await once(file, 'finish');
  return {
    words: execFileSync('pdftotext', ['-layout', path, '-'], { encoding: 'utf8' }),
    fonts: execFileSync('pdffonts', [path], { encoding: 'utf8' }),
    bytes: file.bytesWritten,
  };
}

const NAMES = [
  'Řeka Nežárka, břeh č. 7',
  'Łąka nad Wisłą',
  'Ποταμός Αλφειός',
  'Река Волхов',
  'Đường đê số 3',
  'İğdır, şev üstü',
  'Straße am Fluß',
];

test('names of every Latin alphabet, Greek and Cyrillic are on paper as they were typed', async () => {
  const { words, fonts, bytes } = await readBack((pdf) => {
    for (const name of NAMES) pdf.font('Helvetica').fontSize(11).text(name);
    pdf.font('Helvetica-Bold').text('Высота 12,5 м');
  });
  for (const name of [...NAMES, 'Высота 12,5 м']) expect(words).toContain(name);
  expect(fonts).toMatch(/DejaVuSansCondensed-Bold/);
  // Of the font that is brought along only the letters used are in the file.
  expect(bytes).toBeLessThan(60_000);
});

test('what the usual fonts show stays in them, and after other letters they are back', async () => {
  const { words, fonts } = await readBack((pdf) =>
    pdf.font('Helvetica').text('Flood bank – “east reach”, 12 € −3.2 m'),
  );
  expect(words).toContain('Flood bank – “east reach”, 12 € -3.2 m');
  expect(fonts).not.toMatch(/DejaVu/);
  const pdf = new PaperPdf({ size: 'A4' });
  pdf.font('Helvetica').fontSize(10);
  const wide = pdf.widthOfString('Flood bank');
  expect(pdf.widthOfString('Бык')).toBeGreaterThan(0);
  pdf.text('Бык');
  expect(pdf.widthOfString('Flood bank')).toBe(wide);
  expect(pdf.heightOfString('Ποταμός Αλφειός', { width: 30 })).toBeGreaterThan(
    pdf.heightOfString('Ποταμός', { width: 300 }),
  );
});

test('scripts that need more than a font say so by question marks, letter by letter', () => {
  expect(plainForPdf('堤防 A')).toBe('?? A');
  expect(plainForPdf('سد')).toBe('??');
  expect(plainForPdf('a\u2009b')).toBe('a b');
});
