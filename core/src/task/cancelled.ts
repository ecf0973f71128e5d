/** Thrown by long work whose caller no longer wants it. Nothing has been written when it arrives. */
export class Cancelled extends Error {
  override readonly name = 'Cancelled';
  constructor() {
    super('Cancelled');
  }
}

/** @throws Cancelled when the signal has fired; cheap enough to call once a batch or once an iteration. */
export function checkCancelled(signal: { readonly aborted: boolean } | undefined): void {
  if (signal?.aborted) throw new Cancelled();
}
