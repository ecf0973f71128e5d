import type { GeoreferenceScanParameters } from '@pampero/contract';
import { readHistory } from './history-repository.js';
import type { Models } from './models.js';

/** The settings that a cloud was georeferenced with in this job; undefined where it came as points. */
export async function georeferencedWith(
  models: Models,
  cloudId: number,
): Promise<GeoreferenceScanParameters | undefined> {
  const { entries } = await readHistory(models);
  const entry = entries.find(
    ({ operation, made }) =>
      operation === 'georeference-scan' && made.some(({ kind, id }) => kind === 'cloud' && id === cloudId),
  );
  return entry?.parameters as GeoreferenceScanParameters | undefined;
}
