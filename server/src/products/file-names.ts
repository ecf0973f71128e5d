/** Names of devices, which Windows takes for no files. */
const RESERVED = /^(?:con|prn|aux|nul|com\d|lpt\d)(?:\..*)?$/i;

/** A name as a file's: what Windows and shells stumble over becomes a dash. */
export function fileStem(name: string): string {
  const stem = name
    .replace(/[\\/:*?"<>|\p{Cc}\u2028\u2029]+/gu, '-')
    // Marks that turn the direction of writing would show another ending than the file has.
    .replace(/[\u200e\u200f\u202a-\u202e\u2066-\u2069]/g, '')
    .slice(0, 120)
    .replace(/^[.\s]+|[.\s]+$/g, '');
  return stem === '' || RESERVED.test(stem) ? `pampero ${stem}`.trim() : stem;
}
