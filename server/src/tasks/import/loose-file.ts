import { extname } from 'node:path';
import type { ByteSource, FormatWarning, LoosePoints } from '@pampero/core/formats';
import { openE57, scansApart, type ScanApart } from '@pampero/core/formats/e57';
import { openPly } from '@pampero/core/formats/ply';
import { readPtxPoints, type PtxReport } from '@pampero/core/formats/ptx';
import { readTextPoints, type TextLayout, type TextReport } from '@pampero/core/formats/text';
import type { CrsDescription } from '@pampero/core/geodesy';

/** A file without scaled integers, opened: what it is, its points, and, once they are read, what was wrong. */
export interface LooseFile {
  readonly format: string;
  readonly crs?: CrsDescription | undefined;
  /** Where the file states it. */
  readonly pointCount?: number;
  /** Scans that lie far from the others, with what they are called. */
  readonly apart?: readonly (ScanApart & { readonly name: string })[];
  readonly batches: AsyncGenerator<LoosePoints>;
  warnings(): readonly FormatWarning[];
}

const TEXT_ENDINGS: readonly string[] = ['.txt', '.xyz', '.csv', '.pts', '.asc'];

export type LooseKind = 'text' | 'ply' | 'e57' | 'ptx';

/** What a file is by its name; undefined for those that are read as LAS. */
export function looseKind(fileName: string): LooseKind | undefined {
  const ending = extname(fileName).toLowerCase();
  if (TEXT_ENDINGS.includes(ending)) return 'text';
  return ending === '.ply' || ending === '.e57' || ending === '.ptx' ? (ending.slice(1) as LooseKind) : undefined;
}

/** @throws FormatError */
export async function openLooseFile(
  source: ByteSource,
  kind: LooseKind,
  layout: TextLayout | undefined,
  {
    leaveOut = [],
    looksAtScans = false,
  }: { readonly leaveOut?: readonly number[]; readonly looksAtScans?: boolean } = {},
): Promise<LooseFile> {
  switch (kind) {
    case 'e57': {
      const file = await openE57(source, { leaveOut });
      const apart = looksAtScans && file.scans.length > 1 ? scansApart(await file.firstPoints()) : [];
      const { length } = file.scans;
      return {
        format: `E57, ${length} ${length === 1 ? 'scan' : 'scans'}`,
        crs: file.crs,
        pointCount: file.pointCount,
        apart: apart.map((scan) => ({ ...scan, name: file.scans[scan.number - 1]!.name })),
        batches: file.batches(),
        warnings: () => file.warnings,
      };
    }
    case 'ptx': {
      const report: PtxReport = { scans: 0, withoutReturn: 0, warnings: [] };
      return { format: 'PTX', batches: readPtxPoints(source, report), warnings: () => report.warnings };
    }
    case 'ply': {
      const ply = await openPly(source);
      return {
        format: `PLY, ${ply.encoding.replaceAll('_', ' ')}`,
        pointCount: ply.pointCount,
        batches: ply.batches(),
        warnings: () => ply.warnings,
      };
    }
    case 'text': {
      const report: TextReport = { skippedLines: 0, firstSkipped: undefined };
      return {
        format: 'text',
        batches: readTextPoints(source, layout!, report),
        warnings: () =>
          report.skippedLines === 0
            ? []
            : [
                {
                  code: 'lines-skipped',
                  message: `${report.skippedLines} lines are no points and were left out, the first of them line ${report.firstSkipped}.`,
                },
              ],
      };
    }
  }
}
