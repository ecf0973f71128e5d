import { json, raw, Router } from 'express';
import { z } from 'zod';
import { SUM_HEADER } from '../queue/work-path.js';
import type { TaskDesk } from '../queue/task-desk.js';

const helper = z.strictObject({
  id: z.uuid(),
  threads: z.int().min(1).max(256),
  code: z.string().max(64),
});
/** More than any tile's result. */
const LARGEST_RESULT = '1gb';

/** What machines that help ask and bring: outside the API, since its bytes are for the same version alone. */
export function workRoutes(desk: TaskDesk): Router {
  const router = Router();
  router.post('/hello', json({ limit: '4kb' }), (request, response) => {
    response.json(desk.welcome(helper.parse(request.body)));
  });
  router.post('/farewell', json({ limit: '4kb' }), (request, response) => {
    desk.farewell(helper.parse(request.body).id);
    response.status(204).end();
  });
  router.get('/tasks/:id', (request, response) => {
    const { bytes, sum } = desk.parcel(request.params.id);
    response.setHeader('cache-control', 'no-store').setHeader(SUM_HEADER, sum);
    response.type('application/octet-stream').send(bytes);
  });
  router.get('/tasks/:id/wanted', (request, response) => {
    response.setHeader('cache-control', 'no-store').json({ isWanted: desk.isWanted(request.params.id) });
  });
  router.post('/tasks/:id', raw({ limit: LARGEST_RESULT, type: () => true }), (request, response) => {
    desk.receive(request.params.id, request.body as Buffer, String(request.headers[SUM_HEADER]));
    response.status(204).end();
  });
  return router;
}
