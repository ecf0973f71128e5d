import type { LengthUnit } from '@pampero/core/geodesy';
import type { z } from 'zod';

/** Who a hand-over is for: drawing office, geographic information systems, a client without the trade. */
export const RECIPIENTS = ['cad', 'gis', 'client'] as const;
export type Recipient = (typeof RECIPIENTS)[number];

/** A form in which a product leaves. */
export interface FileFormat<Id extends string = string> {
  readonly id: Id;
  /** What the button says. */
  readonly label: string;
  /** Of the file's name, after that of the product: "-bands.geojson". */
  readonly ending: string;
  readonly mediaType: string;
  /** Whose hand-over has it unless chosen otherwise. */
  readonly suits?: readonly Recipient[];
}

/**
 * A kind of thing that is made in a job. This one description feeds the API, the layers, Deliver and the docs; how it is
 * shown and written is in the server's file of the same name. What a product hangs on is not said here: it follows from the
 * parameters of the operation that made it.
 */
export interface ProductKind<
  Id extends string = string,
  Facts extends z.ZodObject = z.ZodObject,
  Formats extends readonly FileFormat[] = readonly FileFormat[],
> {
  readonly id: Id;
  /** "surface", "Surfaces". */
  readonly name: { readonly one: string; readonly many: string };
  /** What is known of each, beside its name and where it came from. */
  readonly facts: Facts;
  /** Set where it is a layer with an eye: what is counted beside its name. */
  readonly layer?: { readonly unit: string; readonly count: (facts: z.output<Facts>) => number };
  /** One line for Deliver: "Surface, 12 034 triangles". */
  readonly describe: (facts: z.output<Facts>, unit: LengthUnit) => string;
  readonly formats: Formats;
  /** Why it cannot be built again by itself, where that is so. */
  readonly cannotRebuild?: (facts: z.output<Facts>) => string | undefined;
}

/** Keeps the exact types of a kind. */
export const productKind = <
  const Id extends string,
  Facts extends z.ZodObject,
  const Formats extends readonly FileFormat[],
>(
  kind: ProductKind<Id, Facts, Formats>,
): ProductKind<Id, Facts, Formats> => kind;
