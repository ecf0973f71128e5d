import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import type { GivenPlaces, IncomingFile, Job, RunSheet, SheetPlace } from '@pampero/contract';
import {
  catchError,
  concatMap,
  EMPTY,
  filter,
  from,
  last,
  map,
  of,
  switchMap,
  tap,
  toArray,
  type Observable,
} from 'rxjs';
import { ApiClient, ApiError } from '../../api/api-client';
import { FileSender } from '../../api/file-sender';
import { JobStore } from '../../state/job-store';
import { RunSheetStore } from '../../state/run-sheet-store';

type Target = 'here' | 'each' | 'jobs';

/** What differs from job to job: files, clouds and values for a run sheet; then it is run here, in several jobs, or in a new job for each file. */
@Component({
  selector: 'pam-run-sheet-dialog',
  imports: [FormsModule, MatButtonModule, MatDialogModule, MatIconModule],
  template: `
    <h2 mat-dialog-title>Run: {{ sheet.name }}</h2>
    <mat-dialog-content>
      @if (sheet.notes) {
        <p class="soft">{{ sheet.notes }}</p>
      }
      @for (place of sheet.places; track place.key) {
        <div class="place">
          <span class="label"
            >{{ place.label }}{{ place.isOptional ? ', if there are any' : '' }}<small>{{ place.help }}</small></span
          >
          @switch (place.kind) {
            @case ('files') {
              <span>
                <input
                  #file
                  type="file"
                  multiple
                  hidden
                  (change)="pick(place, file)"
                  [attr.data-testid]="'place-' + place.key"
                />
                <button mat-stroked-button (click)="file.click()"><mat-icon svgIcon="upload" />Choose files …</button>
                <span class="chosen">{{ namesOf(place) }}</span>
              </span>
            }
            @case ('clouds') {
              <span class="clouds">
                @if (target() === 'jobs') {
                  <span class="soft">all clouds of each job</span>
                } @else {
                  @for (cloud of job.clouds(); track cloud.id) {
                    <label
                      ><input type="checkbox" [checked]="clouds().has(cloud.id)" (change)="toggle(cloud.id)" />{{
                        cloud.name
                      }}</label
                    >
                  } @empty {
                    <span class="soft">The job has no clouds yet.</span>
                  }
                }
              </span>
            }
            @default {
              <input
                class="value"
                [ngModel]="values()[place.key]"
                (ngModelChange)="type(place, $event)"
                [attr.aria-label]="place.label"
                [attr.data-testid]="'place-' + place.key"
              />
            }
          }
        </div>
      }
      @if (canBeEach() || canBeJobs()) {
        <fieldset>
          <legend>Run it</legend>
          <label
            ><input type="radio" name="target" [checked]="target() === 'here'" (change)="target.set('here')" />in this
            job</label
          >
          @if (canBeEach()) {
            <label
              ><input
                type="radio"
                name="target"
                [checked]="target() === 'each'"
                (change)="target.set('each')"
                data-testid="target-each"
              />in a new job{{ cloudFiles().length > 1 ? ' for each of the ' + cloudFiles().length + ' clouds' : '' }},
              in this job’s coordinate system</label
            >
          }
          @if (canBeJobs()) {
            <label
              ><input
                type="radio"
                name="target"
                [checked]="target() === 'jobs'"
                (change)="target.set('jobs')"
                data-testid="target-jobs"
              />in several jobs</label
            >
            @if (target() === 'jobs') {
              <div class="jobs">
                @for (each of jobs(); track each.id) {
                  <label
                    ><input
                      type="checkbox"
                      [checked]="chosenJobs().has(each.id)"
                      [disabled]="wantsClouds && each.cloudCount === 0"
                      (change)="toggleJob(each.id)"
                      [attr.data-testid]="'job-' + each.id"
                    />{{ each.name }}
                    @if (wantsClouds && each.cloudCount === 0) {
                      <small>has no clouds</small>
                    }
                  </label>
                }
              </div>
            }
          }
        </fieldset>
      }
      @if (sending(); as text) {
        <p class="soft">{{ text }}</p>
      }
      @if (fault(); as text) {
        <p class="fault" role="alert">{{ text }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button mat-button mat-dialog-close>Cancel</button>
      <button mat-flat-button (click)="run()" [disabled]="missing() !== '' || sending() !== ''" data-testid="run-start">
        Run
      </button>
    </mat-dialog-actions>
  `,
  styleUrl: './dialogs.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RunSheetDialogComponent {
  protected readonly sheet = inject<RunSheet>(MAT_DIALOG_DATA);
  private readonly dialog = inject<MatDialogRef<RunSheetDialogComponent, boolean>>(MatDialogRef);
  protected readonly job = inject(JobStore);
  private readonly sheets = inject(RunSheetStore);
  private readonly api = inject(ApiClient);
  private readonly sender = inject(FileSender);

  private readonly files = signal<Readonly<Record<string, readonly File[]>>>({});
  protected readonly clouds = signal<ReadonlySet<number>>(new Set(this.job.clouds().map(({ id }) => id)));
  protected readonly values = signal<Readonly<Record<string, string>>>({});
  protected readonly target = signal<Target>('here');
  protected readonly jobs = signal<readonly Job[]>([]);
  protected readonly chosenJobs = signal<ReadonlySet<string>>(new Set([this.job.jobId()]));
  protected readonly wantsClouds = this.sheet.places.some(({ kind }) => kind === 'clouds');
  protected readonly sending = signal('');
  protected readonly fault = signal('');

  /** The place that clouds are read from. */
  private readonly cloudPlace = this.sheet.steps.flatMap((step) =>
    step.kind === 'work' && step.operation === 'import-cloud' && step.file !== undefined ? [step.file] : [],
  )[0];
  /** A sheet that brings clouds of its own makes jobs for them. */
  protected readonly canBeJobs = computed(() => this.cloudPlace === undefined && this.jobs().length > 1);
  protected readonly cloudFiles = computed(() =>
    this.cloudPlace === undefined ? [] : (this.files()[this.cloudPlace] ?? []),
  );
  protected readonly canBeEach = computed(() => this.cloudFiles().length > 0 && !this.wantsClouds);
  constructor() {
    this.api
      .call('listJobs', {})
      .pipe(catchError(() => EMPTY))
      .subscribe((jobs) => this.jobs.set(jobs));
  }

  protected readonly missing = computed(() => {
    if (this.target() === 'jobs' && this.chosenJobs().size === 0) return 'Jobs';
    const place = this.sheet.places.find((each) => !each.isOptional && !this.isGiven(each));
    return place?.label ?? '';
  });

  private isGiven({ key, kind }: SheetPlace): boolean {
    if (kind === 'files') return (this.files()[key]?.length ?? 0) > 0;
    if (kind === 'clouds' && this.target() === 'jobs') return true;
    return kind === 'clouds' ? this.clouds().size > 0 : (this.values()[key] ?? '').trim() !== '';
  }

  protected pick({ key }: SheetPlace, input: HTMLInputElement): void {
    const chosen = [...(input.files ?? [])];
    input.value = '';
    if (chosen.length > 0) this.files.update((files) => ({ ...files, [key]: chosen }));
  }

  protected namesOf({ key }: SheetPlace): string {
    const names = (this.files()[key] ?? []).map(({ name }) => name);
    return names.length > 3 ? `${names.slice(0, 2).join(', ')} and ${names.length - 2} more` : names.join(', ');
  }

  protected toggle(id: number): void {
    this.clouds.update((before) => toggled(before, id));
  }

  protected toggleJob(id: string): void {
    this.chosenJobs.update((before) => toggled(before, id));
  }

  protected type({ key }: SheetPlace, text: string): void {
    this.values.update((values) => ({ ...values, [key]: text }));
  }

  protected run(): void {
    this.fault.set('');
    const eachFile = this.target() === 'each' && this.canBeEach();
    const inJobs = this.target() === 'jobs';
    const started: Observable<unknown> = eachFile
      ? from(this.cloudFiles()).pipe(concatMap((file) => this.inNewJob(file)))
      : inJobs
        ? from([...this.chosenJobs()]).pipe(concatMap((id) => this.inJob(id)))
        : this.sent(this.files()).pipe(
            switchMap((places) => this.sheets.start(this.sheet, { ...places, ...this.others() })),
          );
    started
      .pipe(
        toArray(),
        catchError((error: unknown) => {
          this.sending.set('');
          this.fault.set(error instanceof ApiError ? error.problem.detail : String(error));
          return EMPTY;
        }),
      )
      .subscribe((runs) => {
        if (eachFile) this.job.say(`Running in ${runs.length} new jobs; they are on the Jobs page.`);
        if (inJobs)
          this.job.say(
            `Running in ${runs.length} ${runs.length === 1 ? 'job' : 'jobs'}; each has its run in its Deliver.`,
          );
        this.dialog.close(true);
      });
  }

  /** A job for one file, with every other file that was given. */
  private inNewJob(file: File): Observable<unknown> {
    const { crs, unit } = this.job.job()!;
    const body = {
      name: file.name.replace(/(\.copc)?\.[^.]+$/, ''),
      unit,
      ...(crs.epsg !== undefined ? { epsg: crs.epsg } : crs.definition !== undefined && { definition: crs.definition }),
    };
    const files = { ...this.files(), [this.cloudPlace!]: [file] };
    return this.sent(files).pipe(
      switchMap((places) =>
        this.api
          .call('createJob', { body })
          .pipe(switchMap((job) => this.sheets.start(this.sheet, { ...places, ...this.others() }, job.id))),
      ),
    );
  }

  /** In a job that is there, with all of its own clouds; files are sent anew, as each job keeps its own. */
  private inJob(jobId: string): Observable<unknown> {
    const clouds = this.wantsClouds
      ? this.api.call('readJob', { params: { jobId } }).pipe(map((bench) => bench.clouds.map(({ id }) => id)))
      : of([]);
    return clouds.pipe(
      switchMap((own) =>
        this.sent(this.files()).pipe(
          switchMap((places) => this.sheets.start(this.sheet, { ...places, ...this.others(own) }, jobId)),
        ),
      ),
    );
  }

  /** What is given beside files. */
  private others(clouds: readonly number[] = [...this.clouds()]): GivenPlaces {
    const out: GivenPlaces = {};
    for (const place of this.sheet.places) {
      if (place.kind === 'clouds') out[place.key] = { clouds: [...clouds] };
      else if (place.kind === 'value' && this.isGiven(place))
        out[place.key] = { value: this.values()[place.key]!.trim() };
    }
    return out;
  }

  /** Sends files one after another, and answers with the places they are given for. */
  private sent(files: Readonly<Record<string, readonly File[]>>): Observable<GivenPlaces> {
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

function toggled<T>(before: ReadonlySet<T>, one: T): ReadonlySet<T> {
  const after = new Set(before);
  if (!after.delete(one)) after.add(one);
  return after;
}
