import { HttpErrorResponse } from '@angular/common/http';
import type { Problem } from '@pampero/contract';

/** What the server says went wrong, where the answer was to be a file. */
export async function problemText(error: unknown): Promise<string> {
  if (!(error instanceof HttpErrorResponse) || !(error.error instanceof Blob)) return 'The server does not answer.';
  try {
    return (JSON.parse(await error.error.text()) as Problem).detail;
  } catch {
    return 'The server does not answer as it should.';
  }
}
