import { HttpClient, HttpErrorResponse, HttpEventType } from '@angular/common/http';
import { inject, Injectable } from '@angular/core';
import type {
  CloudReport,
  ControlLook,
  CrsEntry,
  History,
  Job,
  JobEvent,
  NewJob,
  OperationId,
  Problem,
  Run,
  Workbench,
} from '@pampero/contract';
import type { PointOrder } from '@pampero/core/formats/point-list';
import { catchError, filter, map, Observable, throwError } from 'rxjs';

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

export interface Upload {
  /** Share of the file sent, 0 to 1. */
  readonly sent: number;
  /** The import's run, once all is sent. */
  readonly run?: Run;
}

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

  lookAtControl(jobId: string, cloudId: number): Observable<ControlLook> {
    return this.http.get<ControlLook>(`/api/jobs/${jobId}/clouds/${cloudId}/control`).pipe(asProblem());
  }

  importControl(jobId: string, list: ControlList): Observable<Run> {
    return this.http.post<Run>(`/api/jobs/${jobId}/control`, list).pipe(asProblem());
  }

  /** Sends a file of points; unsubscribing breaks the upload off. */
  importCloud(jobId: string, file: File): Observable<Upload> {
    const request = this.http.post<Run>(`/api/jobs/${jobId}/clouds`, file, {
      params: { fileName: file.name },
      headers: BYTES,
      reportProgress: true,
      observe: 'events',
    });
    return request.pipe(
      filter((event) => event.type === HttpEventType.UploadProgress || event.type === HttpEventType.Response),
      map((event): Upload =>
        event.type === HttpEventType.Response
          ? { sent: 1, run: event.body! }
          : { sent: event.loaded / Math.max(1, event.total ?? file.size) },
      ),
      asProblem(),
    );
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
