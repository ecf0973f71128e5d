import { HttpClient, HttpErrorResponse } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type {
  CloudReport,
  ControlLook,
  CrsEntry,
  FileLook,
  Folder,
  Geoid,
  GroundDoubtResource,
  GroundPreview,
  ProfileResource,
  SurfaceFaultResource,
  SpotPoint,
  GroundProposalResource,
  History,
  ImportRequest,
  IncomingFile,
  Job,
  JobEvent,
  NewJob,
  NewPin,
  OperationId,
  Patch,
  PatchRequest,
  ObjectGroupResource,
  Pin,
  Problem,
  Run,
  SelectionCount,
  Workbench,
} from '@pampero/contract';
import type { PointOrder } from '@pampero/core/formats/point-list';
import type { LineRole } from '@pampero/core/terrain';
import type { Selection } from '@pampero/core/selection';
import type { TextLayout } from '@pampero/core/formats/text';
import { catchError, Observable, throwError } from 'rxjs';
import { Upload as TusUpload } from 'tus-js-client';

/** A problem the server told, as an error with its facts. */
export class ApiError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

export interface ControlList {
  readonly text: string;
  readonly fileName: string;
  readonly order: PointOrder;
  readonly role: 'control' | 'check';
}

export interface GroundPreviewRequest {
  readonly window: { readonly west: number; readonly south: number; readonly east: number; readonly north: number };
  readonly parameters: Record<string, unknown>;
  readonly against?: Record<string, unknown>;
}

/** Lines on their way into a job. */
export interface LineText {
  readonly text: string;
  readonly fileName: string;
  readonly format: 'geojson' | 'dxf' | 'list';
  readonly role: LineRole;
  readonly level?: number;
  readonly name?: string;
}

export interface Sending {
  /** Share of the file sent, 0 to 1. */
  readonly sent: number;
  /** Its name on the server, once all is sent. */
  readonly uploadId?: string;
}

/** Sent at once, and lost at most where a connection breaks. */
const PIECE_BYTES = 16 * 1024 * 1024;

const OFFLINE: Problem = {
  type: 'about:blank#no-answer',
  title: 'No answer from Pampero',
  status: 0,
  code: 'no-answer',
  detail: 'The Pampero server does not answer. Start it again; what was stored is safe.',
};

/** The API of the server, call by call. Errors arrive as {@link ApiError}. */
@Injectable({ providedIn: 'root' })
export class ApiService {
  private readonly http = inject(HttpClient);

  listJobs(): Observable<Job[]> {
    return this.http.get<Job[]>('/api/jobs').pipe(asProblem());
  }

  createJob(job: NewJob): Observable<Job> {
    return this.http.post<Job>('/api/jobs', job).pipe(asProblem());
  }

  removeJob(jobId: string): Observable<unknown> {
    return this.http.delete(`/api/jobs/${jobId}`).pipe(asProblem());
  }

  putBackJob(file: File): Observable<Job> {
    return this.http.post<Job>('/api/jobs/file', file, { headers: BYTES }).pipe(asProblem());
  }

  searchCrs(search: string): Observable<CrsEntry[]> {
    return this.http.get<CrsEntry[]>('/api/crs', { params: { search, limit: 12 } }).pipe(asProblem());
  }

  readJob(jobId: string): Observable<Workbench> {
    return this.http.get<Workbench>(`/api/jobs/${jobId}`).pipe(asProblem());
  }

  startOperation(jobId: string, operation: OperationId, parameters: Record<string, unknown>): Observable<Run> {
    return this.http.post<Run>(`/api/jobs/${jobId}/operations/${operation}`, parameters).pipe(asProblem());
  }

  countSelection(jobId: string, selection: Selection): Observable<SelectionCount> {
    return this.http
      .post<SelectionCount>(`/api/jobs/${jobId}/selection/count`, { selection: asJson(selection) })
      .pipe(asProblem());
  }

  growPatch(jobId: string, request: PatchRequest): Observable<Patch> {
    return this.http.post<Patch>(`/api/jobs/${jobId}/selection/patch`, asJson(request)).pipe(asProblem());
  }

  pin(jobId: string, pin: NewPin): Observable<Pin> {
    return this.http.post<Pin>(`/api/jobs/${jobId}/pins`, pin).pipe(asProblem());
  }

  unpin(jobId: string, pinId: number): Observable<unknown> {
    return this.http.delete(`/api/jobs/${jobId}/pins/${pinId}`).pipe(asProblem());
  }

  rebuildStale(jobId: string): Observable<Run[]> {
    return this.http.post<Run[]>(`/api/jobs/${jobId}/rebuild`, null).pipe(asProblem());
  }

  cancelRun(jobId: string, runId: string): Observable<Run> {
    return this.http.delete<Run>(`/api/jobs/${jobId}/runs/${runId}`).pipe(asProblem());
  }

  undo(jobId: string): Observable<History> {
    return this.http.post<History>(`/api/jobs/${jobId}/undo`, null).pipe(asProblem());
  }

  redo(jobId: string): Observable<History> {
    return this.http.post<History>(`/api/jobs/${jobId}/redo`, null).pipe(asProblem());
  }

  readCloudReport(jobId: string, cloudId: number): Observable<CloudReport> {
    return this.http.get<CloudReport>(`/api/jobs/${jobId}/clouds/${cloudId}/report`).pipe(asProblem());
  }

  proposeGround(jobId: string, cloudId: number): Observable<GroundProposalResource> {
    return this.http
      .get<GroundProposalResource>(`/api/jobs/${jobId}/clouds/${cloudId}/ground-proposal`)
      .pipe(asProblem());
  }

  listObjects(jobId: string, cloudId: number): Observable<ObjectGroupResource[]> {
    return this.http.get<ObjectGroupResource[]>(`/api/jobs/${jobId}/clouds/${cloudId}/objects`).pipe(asProblem());
  }

  previewGround(jobId: string, cloudId: number, asked: GroundPreviewRequest): Observable<GroundPreview> {
    return this.http
      .post<GroundPreview>(`/api/jobs/${jobId}/clouds/${cloudId}/ground-preview`, asked)
      .pipe(asProblem());
  }

  findSurfaceFaults(jobId: string, surfaceId: number): Observable<SurfaceFaultResource[]> {
    return this.http.get<SurfaceFaultResource[]>(`/api/jobs/${jobId}/surfaces/${surfaceId}/faults`).pipe(asProblem());
  }

  /** Sides of a surface's triangles in a window, packed. */
  readSurfaceSides(
    jobId: string,
    surfaceId: number,
    window: { west: number; south: number; east: number; north: number },
  ): Observable<ArrayBuffer> {
    return this.http
      .post(`/api/jobs/${jobId}/surfaces/${surfaceId}/sides`, window, { responseType: 'arraybuffer' })
      .pipe(asProblem());
  }

  readProfile(jobId: string, profileId: number): Observable<ProfileResource> {
    return this.http.get<ProfileResource>(`/api/jobs/${jobId}/profiles/${profileId}`).pipe(asProblem());
  }

  readSpots(jobId: string, spotsId: number): Observable<SpotPoint[]> {
    return this.http.get<SpotPoint[]>(`/api/jobs/${jobId}/spots/${spotsId}`).pipe(asProblem());
  }

  lookForDoubts(jobId: string, cloudId: number): Observable<GroundDoubtResource[]> {
    return this.http.get<GroundDoubtResource[]>(`/api/jobs/${jobId}/clouds/${cloudId}/ground-doubts`).pipe(asProblem());
  }

  lookAtControl(jobId: string, cloudId: number): Observable<ControlLook> {
    return this.http.get<ControlLook>(`/api/jobs/${jobId}/clouds/${cloudId}/control`).pipe(asProblem());
  }

  importSurface(jobId: string, surface: { text: string; fileName: string }): Observable<Run> {
    return this.http.post<Run>(`/api/jobs/${jobId}/surfaces`, surface).pipe(asProblem());
  }

  importGrid(jobId: string, file: File): Observable<Run> {
    return this.http
      .post<Run>(`/api/jobs/${jobId}/grids`, file, { headers: BYTES, params: { fileName: file.name } })
      .pipe(asProblem());
  }

  importLines(jobId: string, lines: LineText): Observable<Run> {
    return this.http.post<Run>(`/api/jobs/${jobId}/lines`, lines).pipe(asProblem());
  }

  importControl(jobId: string, list: ControlList): Observable<Run> {
    return this.http.post<Run>(`/api/jobs/${jobId}/control`, list).pipe(asProblem());
  }

  /**
   * Sends a file in pieces (tus 1.0); a broken connection is taken up again, also after the page was closed, if the same file
   * is chosen. Unsubscribing breaks off.
   */
  sendFile(file: File): Observable<Sending> {
    return new Observable((subscriber) => {
      const upload = new TusUpload(file, {
        endpoint: '/api/uploads',
        chunkSize: PIECE_BYTES,
        retryDelays: [0, 1000, 3000, 5000, 10_000],
        removeFingerprintOnSuccess: true,
        metadata: { filename: file.name },
        onProgress: (sent, total) => subscriber.next({ sent: total > 0 ? Math.min(0.999, sent / total) : 0 }),
        onSuccess: () => {
          subscriber.next({ sent: 1, uploadId: upload.url!.split('/').at(-1)! });
          subscriber.complete();
        },
        onError: (error) => subscriber.error(new Error(`The file could not be sent whole: ${error.message}`)),
      });
      void upload.findPreviousUploads().then(([previous]) => {
        if (previous) upload.resumeFromPreviousUpload(previous);
        if (!subscriber.closed) upload.start();
      });
      return () => void upload.abort();
    });
  }

  lookAtFile(
    jobId: string,
    body: { file: IncomingFile; layout?: TextLayout; crs?: ImportRequest['crs'] },
  ): Observable<FileLook> {
    return this.http.post<FileLook>(`/api/jobs/${jobId}/look`, body).pipe(asProblem());
  }

  importFile(jobId: string, request: ImportRequest): Observable<Run> {
    return this.http.post<Run>(`/api/jobs/${jobId}/imports`, request).pipe(asProblem());
  }

  listFolder(path: string): Observable<Folder> {
    return this.http.get<Folder>('/api/folder', { params: { path } }).pipe(asProblem());
  }

  listGeoids(): Observable<Geoid[]> {
    return this.http.get<Geoid[]>('/api/geoids').pipe(asProblem());
  }

  /** What happens in a job, as the server tells it; reconnects by itself and says so with `undefined`, since events may have been missed. */
  watchJob(jobId: string): Observable<JobEvent | undefined> {
    return new Observable((subscriber) => {
      const source = new EventSource(`/api/jobs/${jobId}/events`);
      source.onopen = () => subscriber.next(undefined);
      source.onmessage = ({ data }: MessageEvent<string>) => subscriber.next(JSON.parse(data) as JobEvent);
      return () => source.close();
    });
  }
}

/** Bits of points travel as base 64. */
export function asJson(value: unknown): unknown {
  return JSON.parse(
    JSON.stringify(value, (_, v: unknown) => {
      if (!(v instanceof Uint8Array)) return v;
      let text = '';
      for (let i = 0; i < v.length; i += 32_768) text += String.fromCharCode(...v.subarray(i, i + 32_768));
      return btoa(text);
    }),
  );
}

const BYTES = { 'content-type': 'application/octet-stream' };

function asProblem<T>() {
  return (source: Observable<T>): Observable<T> =>
    source.pipe(
      catchError((error: unknown) => {
        if (!(error instanceof HttpErrorResponse)) return throwError(() => error);
        const body = error.error as Problem | string | null;
        const problem = typeof body === 'string' ? (JSON.parse(body) as Problem) : body;
        return throwError(
          () => new ApiError(problem && typeof problem === 'object' && 'code' in problem ? problem : OFFLINE),
        );
      }),
    );
}
