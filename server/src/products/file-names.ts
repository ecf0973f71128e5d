/** A name as a file's: what Windows and shells stumble over becomes a dash. */
export function fileStem(name: string): string {
  // eslint-disable-next-line no-control-regex -- control characters are among what must go
  return name.replace(/[\\/:*?"<>|\x00-\x1f]+/g, '-').replace(/^[.\s]+|[.\s]+$/g, '') || 'pampero';
}
