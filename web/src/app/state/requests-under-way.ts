import { BehaviorSubject, defer, finalize, first, type Observable } from 'rxjs';

/** Requests that were sent and not yet answered. */
export class RequestsUnderWay {
  private readonly count$ = new BehaviorSubject(0);

  /** Counts a request from when it is sent to when it is answered, fails or is given up. */
  with<T>(request: Observable<T>): Observable<T> {
    return defer(() => {
      this.count$.next(this.count$.value + 1);
      return request.pipe(finalize(() => this.count$.next(this.count$.value - 1)));
    });
  }

  /** Emits once, when there are none. */
  none(): Observable<unknown> {
    return this.count$.pipe(first((count) => count === 0));
  }
}
