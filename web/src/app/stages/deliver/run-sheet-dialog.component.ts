import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import type { GivenPlaces, Job, RunSheet, SheetPlace } from '@pampero/contract';
import { catchError, concatMap, EMPTY, from, toArray, type Observable } from 'rxjs';
import { ApiClient, ApiError } from '../../api/api-client';
import { JobStore } from '../../state/job-store';
import { toggled } from '../../shared/toggled';
import { SheetStarter, type ChosenFiles } from './sheet-starter';

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
  providers: [SheetStarter],
  styleUrl: './dialogs.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RunSheetDialogComponent {
  protected readonly sheet = inject<RunSheet>(MAT_DIALOG_DATA);
  private readonly dialog = inject<MatDialogRef<RunSheetDialogComponent, boolean>>(MatDialogRef);
  protected readonly job = inject(JobStore);
  private readonly starter = inject(SheetStarter);
  private readonly api = inject(ApiClient);

  private readonly files = signal<ChosenFiles>({});
  protected readonly clouds = signal<ReadonlySet<number>>(new Set(this.job.clouds().map(({ id }) => id)));
  protected readonly values = signal<Readonly<Record<string, string>>>({});
  protected readonly target = signal<Target>('here');
  protected readonly jobs = signal<readonly Job[]>([]);
  protected readonly chosenJobs = signal<ReadonlySet<string>>(new Set([this.job.jobId()]));
  protected readonly wantsClouds = this.sheet.places.some(({ kind }) => kind === 'clouds');
  protected readonly sending = this.starter.sending;
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
    const files = this.files();
    const started: Observable<unknown> = eachFile
      ? from(this.cloudFiles()).pipe(
          concatMap((file) =>
            this.starter.inNewJob(this.sheet, file.name, { ...files, [this.cloudPlace!]: [file] }, this.others()),
          ),
        )
      : inJobs
        ? from([...this.chosenJobs()]).pipe(
            concatMap((id) => this.starter.inJob(this.sheet, id, files, (own) => this.others(own))),
          )
        : this.starter.here(this.sheet, files, this.others());
    started
      .pipe(
        toArray(),
        catchError((error: unknown) => {
          this.starter.sending.set('');
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
}
