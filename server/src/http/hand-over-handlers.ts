import { rm } from 'node:fs/promises';
import { createReadStream } from 'node:fs';
import type { handOverEndpoints } from '@pampero/contract';
import { Cancelled } from '@pampero/core/task';
import { writePackage } from '../hand-over/write-package.js';
import { fileStem } from '../products/file-names.js';
import { sendWritten } from './send-file.js';
import type { Handlers, Services } from './handler.js';

/** What leaves together. */
export function handOverHandlers(services: Services): Handlers<keyof typeof handOverEndpoints> {
  const { library, writing } = services;
  return {
    async writeReport({ params: { jobId }, body: options, response }) {
      const [job, { path: jobPath }] = [await library.describe(jobId), await library.file(jobId)];
      const isPdf = options.format === 'pdf';
      const fileName = `${fileStem(options.title ?? job.name)} report.${options.format}`;
      await sendWritten(
        library,
        response,
        { fileName, mediaType: isPdf ? 'application/pdf' : 'text/html' },
        (target, signal) => writing.write('writeReport', { jobPath, job, target, options }, signal),
      );
    },
    async handOver({ params: { jobId }, body, response }) {
      const job = await library.describe(jobId);
      const gone = new AbortController();
      response.on('close', () => gone.abort());
      const { ZipArchive } = await import('archiver');
      const archive = new ZipArchive({ zlib: { level: 6 } });
      const written: string[] = [];
      response.attachment(`${fileStem(job.name)}.zip`).type('application/zip');
      archive.pipe(response);
      try {
        await writePackage(
          { ...services, jobId },
          body,
          {
            path() {
              written.push(library.scratchPath('.out'));
              return written.at(-1)!;
            },
            // One file at a time lies aside: the next is written when this one is in the archive.
            async take(name, path) {
              await new Promise<void>((resolve, reject) => {
                archive.once('entry', () => resolve());
                archive.once('error', reject);
                gone.signal.addEventListener('abort', () => reject(new Cancelled()), { once: true });
                // What is packed already grows by packing again.
                archive.append(createReadStream(path), { name, store: /\.(laz|gpkg|zip|pdf|png|jpg)$/.test(name) });
              });
              await rm(path, { force: true });
            },
          },
          gone.signal,
        );
        await archive.finalize();
      } catch (error) {
        archive.abort();
        // Part of it is on its way: a broken connection tells what a half archive would hide.
        if (response.headersSent) response.destroy();
        else if (!(error instanceof Cancelled)) throw error;
      } finally {
        for (const path of written) await rm(path, { force: true });
      }
    },
  };
}
