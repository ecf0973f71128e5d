import { operations, type OperationId } from '@pampero/contract';
import type { ServerOperation } from './server-operation.js';

/** The server's half of every operation, by id. */
export type OperationCatalogue = ReadonlyMap<OperationId, ServerOperation>;

/**
 * Finds the work of every operation of the contract in the file that has its id, in the folder of its stage: what is described
 * there and not worked on here stops the start.
 */
export async function loadOperations(): Promise<OperationCatalogue> {
  const found = await Promise.all(
    operations.map(async (description) => {
      const path = `./${description.stage}/${description.id}.js`;
      const { operation } = (await import(path)) as { operation?: ServerOperation };
      if (operation?.description.id !== description.id)
        throw new Error(`${path} exports no operation "${description.id}".`);
      return [description.id, operation] as const;
    }),
  );
  return new Map(found);
}
