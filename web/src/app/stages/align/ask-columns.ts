import type { MatDialog } from '@angular/material/dialog';
import { lookAtTable } from '@pampero/core/formats/number-table';
import { firstValueFrom } from 'rxjs';
import type { ColumnsDialogComponent, ColumnsDialogData } from './columns-dialog.component';

/** Of a table the beginning tells its columns. */
const BYTES_LOOKED_AT = 65_536;

/** What a kind of table has for columns. */
export interface TableKind {
  readonly names: readonly string[];
  readonly needed: readonly (readonly string[])[];
  readonly known: (heading: string) => string | undefined;
}

/**
 * Shows the first lines of a text before it is read, to say what its columns are.
 * @returns their names in their order, as the operation takes them; nothing added where the file is no text with a record a line, whose reader then says
 * what is wrong; undefined where the surveyor cancels
 */
export async function askColumns(
  dialog: MatDialog,
  file: File,
  { names, needed, known }: TableKind,
): Promise<{ readonly columns?: string } | undefined> {
  const text = await file.slice(0, BYTES_LOOKED_AT).text();
  const look = text.startsWith('LASF') || text.includes('\0') ? undefined : lookAtTable(text, known);
  if (!look) return {};
  const { ColumnsDialogComponent: Dialog } = await import('./columns-dialog.component');
  const opened = dialog.open<ColumnsDialogComponent, ColumnsDialogData, readonly string[]>(Dialog, {
    width: '980px',
    maxWidth: '94vw',
    data: { fileName: file.name, look, names, needed },
  });
  const chosen = await firstValueFrom(opened.afterClosed());
  return chosen && { columns: chosen.join(', ') };
}
