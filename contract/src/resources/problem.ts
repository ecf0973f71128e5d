import { z } from 'zod';

export const problemSchema = z.object({
  type: z.string(),
  title: z.string(),
  status: z.int(),
  detail: z.string(),
  instance: z.string().optional(),
  code: z.string(),
  fix: z.string().optional(),
  errors: z.array(z.strictObject({ pointer: z.string(), detail: z.string() })).optional(),
});
export type Problem = z.infer<typeof problemSchema>;
