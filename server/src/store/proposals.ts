import { proposalSchema, type Proposal } from '@pampero/contract';
import { z } from 'zod';
import type { Models } from './models.js';
import { readProductBlob } from './product-repository.js';

export function writeProposals(proposals: readonly Proposal[]): Uint8Array {
  return new TextEncoder().encode(JSON.stringify(proposals));
}

export async function readProposals(models: Models, productId: number): Promise<Proposal[]> {
  const text = (await readProductBlob(models, productId, 'proposals')).toString('utf8');
  return z.array(proposalSchema).parse(JSON.parse(text));
}
