import type { ProductKindId } from '../products/index.js';

/** What a parameter can point at: a cloud of the job, a product of a kind, or any product. Kinds are named where products are. */
export type Referable = 'cloud' | 'product' | ProductKindId;

/** What a form, the API, the docs and the graph of what hangs on what need to know of a parameter besides its type. */
export interface ParameterMeta {
  readonly label: string;
  /** One line: what it does for the surveyor. */
  readonly help: string;
  readonly quantity?: 'length' | 'elevation' | 'degrees' | 'count' | 'class' | 'class-list' | 'name';
  /** Its value is the number of a cloud or product, or a list of them: what is made hangs on these. */
  readonly refersTo?: Referable;
  /** What leaving it out is called, where one may. */
  readonly none?: string;
  /** Shown only when asked for. */
  readonly isAdvanced?: boolean;
  /** Never in the form: set by what is done by hand. */
  readonly isHidden?: boolean;
  /** Holds only where another parameter has one of these values. */
  readonly appliesTo?: { readonly name: string; readonly is: string | readonly string[] };
  /** What the choices are called, where they are not called by their values. */
  readonly choices?: Readonly<Record<string, string>>;
}

/** Facts of a parameter, for zod to carry. */
export const meta = (facts: ParameterMeta): ParameterMeta & Record<string, unknown> => ({ ...facts });
