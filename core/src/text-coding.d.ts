/** Of the web platform, in browsers, workers and Node alike; the core is compiled without either's own types. */
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean });
  decode(bytes?: Uint8Array, options?: { stream?: boolean }): string;
}
declare class TextEncoder {
  encode(text: string): Uint8Array;
}
