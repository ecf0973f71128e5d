import FFT from 'fft.js';

/** A square of complex numbers, real and imaginary part one after the other, row by row. */
export type ComplexSquare = Float64Array;

/** Fourier transforms of squares whose side is a power of two, by fft.js along rows and columns. */
export class SquareTransform {
  private readonly fft: FFT;
  private readonly line: Float64Array;
  private readonly out: Float64Array;

  constructor(readonly side: number) {
    this.fft = new FFT(side);
    this.line = new Float64Array(2 * side);
    this.out = new Float64Array(2 * side);
  }

  /** In place. */
  forward(square: ComplexSquare): void {
    this.along(square, (out, line) => this.fft.transform(out, line));
  }

  /** In place; undoes {@link forward}. */
  inverse(square: ComplexSquare): void {
    this.along(square, (out, line) => this.fft.inverseTransform(out, line));
  }

  private along(square: ComplexSquare, transform: (out: Float64Array, line: Float64Array) => void): void {
    const { side, line, out } = this;
    for (let row = 0; row < side; row++) {
      const part = square.subarray(2 * row * side, 2 * (row + 1) * side);
      line.set(part);
      transform(out, line);
      part.set(out);
    }
    for (let column = 0; column < side; column++) {
      for (let row = 0; row < side; row++) {
        const at = 2 * (row * side + column);
        line[2 * row] = square[at]!;
        line[2 * row + 1] = square[at + 1]!;
      }
      transform(out, line);
      for (let row = 0; row < side; row++) {
        const at = 2 * (row * side + column);
        square[at] = out[2 * row]!;
        square[at + 1] = out[2 * row + 1]!;
      }
    }
  }
}
