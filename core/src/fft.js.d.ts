declare module 'fft.js' {
  /** Of complex numbers, real and imaginary part one after the other; the size is a power of two. */
  class FFT {
    constructor(size: number);
    transform(out: Float64Array, data: Float64Array): void;
    inverseTransform(out: Float64Array, data: Float64Array): void;
  }
  export = FFT;
}
