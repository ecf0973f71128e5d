let codec: Promise<(typeof import('sharp'))['default']> | undefined;

/** The library that decodes and encodes pictures, loaded when the first is asked for: a server and threads that do other work begin sooner. */
export function pictureCodec(): Promise<(typeof import('sharp'))['default']> {
  return (codec ??= import('sharp').then((module) => module.default));
}
