import { inject, Injectable, signal } from '@angular/core';
import type { GivenPlaces, IncomingFile, RunSheet } from '@pampero/contract';
import { concatMap, filter, from, last, map, of, switchMap, tap, toArray, type Observable } from 'rxjs';
import { ApiClient } from '../../api/api-client';
import { FileSender } from '../../api/file-sender';
import { JobStore } from '../../state/job-store';
import { RunSheetStore } from '../../state/run-sheet-store';

/** Files by the key of the place that they are given for. */
export type ChosenFiles = Readonly<Record<string, readonly File[]>>;

/** Sends what a run sheet is given, and starts it: here, in a new job, or in others that are there. */
@Injectable()
export class SheetStarter {
  private readonly job = inject(JobStore);
  private readonly sheets = inject(RunSheetStore);
  private readonly api = inject(ApiClient);
  private readonly sender = inject(FileSender);

  /** What is being sent, and how far. */
  readonly sending = signal('');

  here(sheet: RunSheet, files: ChosenFiles, others: GivenPlaces): Observable<unknown> {
    return this.sent(files).pipe(switchMap((places) => this.sheets.start(sheet, { ...places, ...others })));
  }

  /** A job named after a file, in this job's system; it is made once all is sent. */
  inNewJob(sheet: RunSheet, name: string, files: ChosenFiles, others: GivenPlaces): Observable<unknown> {
    const { crs, unit } = this.job.job()!;
    const body = {
      name: name.replace(/(\.copc)?\.[^.]+$/, ''),
      unit,
      ...(crs.epsg !== undefined ? { epsg: crs.epsg } : crs.definition !== undefined && { definition: crs.definition }),
    };
    return this.sent(files).pipe(
      switchMap((places) =>
        this.api
          .call('createJob', { body })
          .pipe(switchMap((job) => this.sheets.start(sheet, { ...places, ...others }, job.id))),
      ),
    );
  }

  /**
   * In a job that is there, with its own clouds; files are sent anew, as each job keeps its own.
   * @param others - what is given beside files, by the clouds of that job
   */
  inJob(
    sheet: RunSheet,
    jobId: string,
    files: ChosenFiles,
    others: (clouds: readonly number[]) => GivenPlaces,
  ): Observable<unknown> {
    const wantsClouds = sheet.places.some(({ kind }) => kind === 'clouds');
    const clouds = wantsClouds
      ? this.api.call('readJob', { params: { jobId } }).pipe(map((bench) => bench.clouds.map(({ id }) => id)))
      : of([]);
    return clouds.pipe(
      switchMap((own) =>
        this.sent(files).pipe(switchMap((places) => this.sheets.start(sheet, { ...places, ...others(own) }, jobId))),
      ),
    );
  }

  /** Sends files one after another, and answers with the places they are given for. */
  private sent(files: ChosenFiles): Observable<GivenPlaces> {
    const all = Object.entries(files).flatMap(([key, list]) => list.map((file) => ({ key, file })));
    if (all.length === 0) return of({});
    return from(all).pipe(
      concatMap(({ key, file }) =>
        this.sender.send(file).pipe(
          tap(({ sent }) => this.sending.set(`Sending ${file.name}: ${Math.round(sent * 100)} %`)),
          last(),
          map(({ uploadId }) => ({ key, file: { uploadId: uploadId!, fileName: file.name } })),
        ),
      ),
      filter(({ file }) => file.uploadId !== undefined),
      toArray(),
      map((received) => {
        const places: Record<string, { files: IncomingFile[] }> = {};
        for (const { key, file } of received) (places[key] ??= { files: [] }).files.push(file);
        return places;
      }),
    );
  }
}
