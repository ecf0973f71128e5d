import { QueryTypes } from 'sequelize';
import type { Models } from './models.js';

/** Takes away the lines that came with a version of a code nobody can come back to, and brings back those that went with it. */
export async function dropVersion(models: Models, productId: number): Promise<void> {
  for (const sql of ['DELETE FROM lines WHERE bornIn = $1', 'UPDATE lines SET goneIn = NULL WHERE goneIn = $1'])
    await models.meta.sequelize!.query(sql, { bind: [productId], type: QueryTypes.RAW });
}
