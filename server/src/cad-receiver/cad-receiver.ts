import { rename, writeFile } from 'node:fs/promises';
import { createServer, type IncomingMessage, type Server } from 'node:http';
import { basename, join } from 'node:path';
import { PamperoError } from '@pampero/core/task';
import { LOCK } from './drawing-folder.js';
import { isThere } from './is-there.js';
import { readDrawing } from './read-drawing.js';

const LARGEST = 500_000_000;

/**
 * A small stand-in of a drawing office's program: takes DXF and LandXML by `PUT /drawings/NAME`, keeps them in a folder and answers what it understood (see
 * `understood.ts`). It has an office's troubles too: a folder that is not there, a drawing that someone has open (`NAME.lock` lies beside it).
 */
export function cadReceiver(folder: string): Server {
  return createServer((request, response) => {
    const send = (status: number, body: unknown): void => {
      response.writeHead(status, { 'content-type': 'application/json' });
      response.end(JSON.stringify(body));
    };
    const name = /^\/drawings\/([^/?]+)$/.exec(request.url ?? '')?.[1];
    if (request.method !== 'PUT' || name === undefined)
      return send(404, { error: 'Send drawings by PUT to /drawings/NAME.' });
    void take(request, join(folder, basename(decodeURIComponent(name))), folder).then(
      (understood) => send(200, understood),
      (error: unknown) =>
        send(409, { error: error instanceof PamperoError ? error.message : 'The drawing cannot be kept.' }),
    );
  });
}

async function take(request: IncomingMessage, path: string, folder: string): Promise<unknown> {
  const bytes = await bodyOf(request);
  const fileName = basename(path);
  if (!(await isThere(folder)))
    throw new PamperoError('folder-gone', {
      what: 'The folder for drawings is not there.',
      fix: 'Make it, or choose another in the receiver.',
    });
  if (await isThere(path + LOCK))
    throw new PamperoError('in-use', {
      what: `${fileName} is open in a drawing.`,
      fix: 'Close it there, or send it under another name.',
    });
  const understood = readDrawing(bytes.toString('utf8'), fileName);
  // What was read is what lies there: never half of it.
  await writeFile(`${path}.part`, bytes);
  await rename(`${path}.part`, path);
  return understood;
}

async function bodyOf(request: IncomingMessage): Promise<Buffer> {
  const parts: Buffer[] = [];
  let size = 0;
  for await (const part of request) {
    size += (part as Buffer).length;
    if (size > LARGEST)
      throw new PamperoError('too-large', { what: 'The drawing is larger than 500 MB.', fix: 'Send less of it.' });
    parts.push(part as Buffer);
  }
  return Buffer.concat(parts);
}
