import { Injectable } from '@angular/core';
import { Observable } from 'rxjs';
import { Upload as TusUpload } from 'tus-js-client';

export interface Sending {
  /** Share of the file sent, 0 to 1. */
  readonly sent: number;
  /** Its name on the server, once all is sent. */
  readonly uploadId?: string;
}

/** Sent at once, and lost at most where a connection breaks. */
const PIECE_BYTES = 16 * 1024 * 1024;

/** Sends large files. */
@Injectable({ providedIn: 'root' })
export class FileSender {
  /**
   * Sends a file in pieces (tus 1.0); a broken connection is taken up again, also after the page was closed, if the same file
   * is chosen. Unsubscribing breaks off.
   */
  send(file: File): Observable<Sending> {
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
}
