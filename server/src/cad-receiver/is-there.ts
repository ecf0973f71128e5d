import { access } from 'node:fs/promises';

export const isThere = (path: string): Promise<boolean> =>
  access(path).then(
    () => true,
    () => false,
  );
