/** Has the browser save something under a name. */
export function saveBytes(bytes: Blob, fileName: string): void {
  const url = URL.createObjectURL(bytes);
  const link = document.createElement('a');
  link.href = url;
  link.download = fileName.replace(/[\\/:*?"<>|]+/g, '-');
  link.click();
  // The browser may ask where to before it reads.
  setTimeout(() => URL.revokeObjectURL(url), 60_000);
}
