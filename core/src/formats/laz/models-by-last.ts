import { SymbolModel } from './arithmetic-models.js';

/** Symbol models by the value before, made when first met. */
export class ModelsByLast {
  private readonly models: (SymbolModel | undefined)[] = [];
  constructor(private readonly symbols = 256) {}

  for(last: number): SymbolModel {
    return (this.models[last] ??= new SymbolModel(this.symbols));
  }
}
