/** A thin gap between thousands, everywhere: 1 512 904. */
export const GAP = '\u2009';

/** A whole number with its thousands parted. */
export function formatCount(value: number): string {
  return parted(Math.round(value).toString());
}

/** A number with `decimals`, thousands parted: 5 512 204.318. What rounds to nothing has no sign. */
export function formatNumber(value: number, decimals: number): string {
  const text = value.toFixed(decimals);
  const [whole, rest] = (/[1-9]/.test(text) ? text : text.replace('-', '')).split('.') as [string, string?];
  return rest === undefined ? parted(whole) : `${parted(whole)}.${rest}`;
}

/** "1 point", "12 points": the count with its word, which gets an s unless told otherwise. */
export function formatCounted(value: number, word: string, words = `${word}s`): string {
  return `${formatCount(value)} ${value === 1 ? word : words}`;
}

function parted(digits: string): string {
  return digits.replace(/\B(?=(\d{3})+$)/g, GAP);
}

/** A size in decimal units, as disks are sold. */
export function formatBytes(bytes: number): string {
  if (bytes < 1e6) return `${formatNumber(bytes / 1e3, 0)}${GAP}kB`;
  return bytes < 1e9 ? `${formatNumber(bytes / 1e6, 1)}${GAP}MB` : `${formatNumber(bytes / 1e9, 2)}${GAP}GB`;
}
