import { formatsOf, type Product } from '@pampero/contract';
import { JobError } from '../errors/job-error.js';

/** A product asked for in a format that its kind does not have. */
export function noSuchFormat(product: Product, formatId: string): JobError {
  return new JobError('no-such-format', {
    what: `${product.name} cannot be written as “${formatId}”.`,
    fix: `Ask for one of: ${formatsOf(product)
      .map(({ id }) => id)
      .join(', ')}.`,
  });
}
