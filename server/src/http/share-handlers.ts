import type { ClientViewOptions, shareEndpoints } from '@pampero/contract';
import { fileStem } from '../products/file-names.js';
import type { Handlers, Services } from './handler.js';
import { sendWritten } from './send-file.js';

/** What a client opens: as one file, or by a link. */
export function shareHandlers({ library, writing, shares }: Services): Handlers<keyof typeof shareEndpoints> {
  const write = async (
    jobId: string,
    options: ClientViewOptions,
    target: string,
    signal: AbortSignal,
  ): Promise<void> => {
    const [job, { path: jobPath }] = [await library.describe(jobId), await library.file(jobId)];
    await writing.write('writeView', { jobPath, job, target, options }, signal);
  };
  return {
    async writeClientView({ params: { jobId }, body, response }) {
      const { name } = await library.describe(jobId);
      const file = { fileName: `${fileStem(body.title ?? name)}.html`, mediaType: 'text/html' };
      await sendWritten(library, response, file, (target, signal) => write(jobId, body, target, signal));
    },
    async listShares({ params: { jobId } }) {
      await library.file(jobId);
      return shares.list(jobId);
    },
    async share({ params: { jobId }, body: { view, days, password }, response }) {
      const { name } = await library.describe(jobId);
      const gone = new AbortController();
      response.on('close', () => gone.abort());
      return shares.add({ jobId, title: view.title ?? name, days, password }, (path) =>
        write(jobId, view, path, gone.signal),
      );
    },
    async endShare({ params: { jobId, shareId }, response }) {
      await shares.end(jobId, shareId);
      response.status(204).end();
    },
  };
}
