import { guarded } from '../errors/carried-error.js';
import { describePicture } from './describe-picture.js';
import type { PictureAnswer, PictureAsk } from './picture-process.js';
import { readPhotographs, unpackPhotographs } from './read-photographs.js';
import { readPicture } from './read-picture.js';

/** The process that reads pictures: one question, answers about how far it is, one last answer. */
const say = (answer: PictureAnswer, then: () => void = () => undefined): void => void process.send!(answer, then);
// Who asked is gone: nobody waits for the answer.
process.once('disconnect', () => process.exit());
process.once('message', (asked: PictureAsk) => {
  const onShare = (share: number): void => say({ kind: 'share', share });
  const work = guarded((ask: PictureAsk): Promise<unknown> => {
    switch (ask.kind) {
      case 'describe':
        return describePicture(ask.file);
      case 'read':
        return readPicture(ask.task, onShare);
      case 'unpack':
        return unpackPhotographs(ask.task, onShare);
      case 'photographs':
        return readPhotographs(ask.task, onShare);
    }
  });
  // A long answer is on its way for a while: who leaves before it has gone cuts it off.
  void work(asked).then((result) => say({ kind: 'done', result }, () => process.disconnect()));
});
