/** What tests use of the validator of glTF, which comes without types. */
declare module 'gltf-validator' {
  export function validateBytes(bytes: Uint8Array): Promise<{
    readonly issues: {
      readonly numErrors: number;
      readonly numWarnings: number;
      readonly messages: readonly unknown[];
    };
  }>;
}
