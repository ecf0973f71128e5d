import { z } from 'zod';

/** A colour. The pattern names both cases, because one of JSON Schema carries no flags. */
export const colourSchema = z.string().regex(/^#[0-9a-fA-F]{6}$/, 'A colour is written as # and six digits.');
