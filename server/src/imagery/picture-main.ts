import { guarded } from '../errors/carried-error.js';
import type { PictureAnswer, PictureAsk } from './picture-process.js';

/** The process that reads pictures: to a question answers about how far it is and one last answer, then the next question. */
const say = (answer: PictureAnswer): void => void process.send!(answer);
// Who asked is gone: nobody waits for the answer.
process.once('disconnect', () => process.exit());
process.on('message', (asked: PictureAsk) => {
  const onShare = (share: number): void => say({ kind: 'share', share });
  // Libraries are loaded for what is asked alone: most of a second, where it is no more than a zip file.
  const work = guarded(async (ask: PictureAsk): Promise<unknown> => {
    switch (ask.kind) {
      case 'describe':
        return (await import('./describe-picture.js')).describePicture(ask.file);
      case 'read':
        return (await import('./read-picture.js')).readPicture(ask.task, onShare);
      case 'unpack':
        return (await import('./unpack-photographs.js')).unpackPhotographs(ask.task, onShare);
      case 'photographs':
        return (await import('./read-photographs.js')).readPhotographs(ask.task, onShare);
    }
  });
  void work(asked).then((result) => say({ kind: 'done', result }));
});
