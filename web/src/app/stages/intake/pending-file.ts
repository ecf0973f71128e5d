import { computed, signal } from '@angular/core';
import type { CrsChoice, CrsEntry, FileLook, IncomingFile } from '@pampero/contract';
import type { TextColumn, TextLayout } from '@pampero/core/formats/text';
import { readLength, type LengthUnit } from '@pampero/core/geodesy';
import { catchError, EMPTY, finalize, Subject, Subscription, switchMap, tap } from 'rxjs';
import type { ApiClient } from '../../api/api-client';
import type { FileSender } from '../../api/file-sender';
import type { ImportRequest } from '../../state/job-store';

/** How the surveyor says what system a file is in. */
export type SystemSource = 'file' | 'list' | 'own';

/** A file on its way in: being sent, looked at, put right, and at last imported. */
export class PendingFile {
  readonly sent = signal(0);
  readonly problem = signal<string | undefined>(undefined);
  readonly isLooking = signal(false);
  readonly look = signal<FileLook | undefined>(undefined);

  readonly layout = signal<TextLayout | undefined>(undefined);
  /** Numbers of scans that stay out. */
  readonly leftOut = signal<readonly number[]>([]);
  readonly systemSource = signal<SystemSource>('file');
  readonly system = signal<CrsEntry | undefined>(undefined);
  readonly definition = signal('');
  readonly sevenParameters = signal('');
  readonly keepsCoordinates = signal(false);
  readonly elevationUnit = signal<LengthUnit | ''>('');
  readonly geoid = signal('');
  readonly shift = signal('');

  private incoming: IncomingFile | undefined;
  private readonly looks = new Subject<void>();
  private readonly work = new Subscription();

  readonly isReady = computed(() => this.look() !== undefined && !this.isLooking() && this.problem() === undefined);

  constructor(
    private readonly api: Pick<ApiClient, 'call'>,
    private readonly sender: Pick<FileSender, 'send'>,
    private readonly jobId: string,
    private readonly unit: LengthUnit,
    readonly name: string,
    readonly bytes: number,
    source: File | { readonly folderPath: string },
  ) {
    this.work.add(
      this.looks
        .pipe(
          tap(() => this.isLooking.set(true)),
          switchMap(() => {
            const crs = this.crs();
            const layout = this.layout();
            return this.api
              .call('lookAtFile', {
                params: { jobId: this.jobId },
                body: {
                  file: this.incoming!,
                  ...(layout && { layout: { ...layout, columns: [...layout.columns] } }),
                  ...(this.leftOut().length > 0 && { leaveOutScans: [...this.leftOut()] }),
                  ...(crs && { crs }),
                },
              })
              .pipe(
                tap((look) => {
                  this.look.set(look);
                  this.layout.set(look.text?.layout);
                  this.problem.set(undefined);
                }),
                catchError((error: unknown) => this.fail(error)),
                finalize(() => this.isLooking.set(false)),
              );
          }),
        )
        .subscribe(),
    );
    if (source instanceof File) this.send(source);
    else {
      this.sent.set(1);
      this.incoming = source;
      this.looks.next();
    }
  }

  /** Looks again, with what has been said since. */
  again(): void {
    if (this.incoming) this.looks.next();
  }

  setColumn(index: number, column: TextColumn): void {
    const layout = this.layout();
    if (!layout) return;
    // A column's meaning is one column's: who had it before loses it.
    const columns = layout.columns.map((before, i) =>
      i === index ? column : before === column && column !== 'none' ? 'none' : before,
    );
    this.layout.set({ ...layout, columns });
    this.again();
  }

  changeLayout(change: Partial<TextLayout>): void {
    const layout = this.layout() ?? { delimiter: ' ', hasDecimalComma: false, skippedLines: 0, columns: [] };
    const columns = layout.columns.length >= 3 ? layout.columns : (['easting', 'northing', 'elevation'] as const);
    this.layout.set({ ...layout, columns, ...change });
    this.again();
  }

  /** A scan stays out, or comes in after all. */
  leaveOut(scan: number, isOut: boolean): void {
    this.leftOut.update((scans) => (isOut ? [...scans, scan] : scans.filter((other) => other !== scan)));
    this.again();
  }

  /** @throws Error where something typed cannot be read */
  request(): ImportRequest {
    const shiftText = this.shift().trim();
    const read = shiftText === '' ? { value: 0 } : readLength(shiftText, this.unit);
    if ('fault' in read) throw new Error(read.fault);
    const fault = this.systemFault();
    if (fault) throw new Error(`${this.name}: ${fault}`);
    const crs = this.crs();
    const layout = this.layout();
    const unit = this.elevationUnit();
    return {
      file: this.incoming!,
      ...(this.leftOut().length > 0 && { leaveOutScans: this.leftOut() }),
      coordinates: this.keepsCoordinates() ? 'kept' : 'moved',
      ...(layout && { layout: { ...layout, columns: [...layout.columns] } }),
      ...(crs && { crs }),
      heights: { shift: read.value, ...(unit && { unit }), ...(this.geoid() && { geoid: this.geoid() }) },
    };
  }

  discard(): void {
    this.work.unsubscribe();
  }

  private crs(): CrsChoice | undefined {
    const entry = this.system();
    if (this.systemSource() === 'list' && entry) return { epsg: entry.epsg };
    if (this.systemSource() !== 'own' || this.definition().trim().length < 6) return undefined;
    const seven = sevenNumbers(this.sevenParameters());
    return { definition: this.definition().trim(), ...(seven && { sevenParameters: seven }) };
  }

  /** Why the system that was said is none, or nothing: what cannot be read must not be passed over, for the cloud would lie elsewhere. */
  private systemFault(): string | undefined {
    if (this.systemSource() === 'list' && !this.system())
      return 'Choose its coordinate system from the list, or take what the file states.';
    if (this.systemSource() !== 'own') return undefined;
    if (this.definition().trim().length < 6) return 'Type the PROJ string of its custom system.';
    const typed = this.sevenParameters().trim();
    if (typed === '' || sevenNumbers(typed)) return undefined;
    return `“${typed}” are not seven parameters. Type seven numbers: dX dY dZ in metres, rX rY rZ in seconds, and parts per million.`;
  }

  private send(file: File): void {
    this.work.add(
      this.sender
        .send(file)
        .pipe(catchError((error: unknown) => this.fail(error)))
        .subscribe(({ sent, uploadId }) => {
          this.sent.set(sent);
          if (uploadId === undefined) return;
          this.incoming = { uploadId, fileName: file.name };
          this.looks.next();
        }),
    );
  }

  private fail(error: unknown): typeof EMPTY {
    this.problem.set(error instanceof Error ? error.message : String(error));
    return EMPTY;
  }
}

type Seven = [number, number, number, number, number, number, number];

/** Seven numbers with spaces, semicolons or commas between them; a comma is a decimal one where spaces or semicolons make seven. */
function sevenNumbers(text: string): Seven | undefined {
  const apart = (by: RegExp): string[] => text.trim().split(by).filter(Boolean);
  const spaced = apart(/[\s;]+/);
  const words = spaced.length === 7 ? spaced.map((word) => word.replace(/,$/, '').replace(',', '.')) : apart(/[\s,;]+/);
  const numbers = words.map(Number);
  return numbers.length === 7 && numbers.every(Number.isFinite) ? (numbers as Seven) : undefined;
}
