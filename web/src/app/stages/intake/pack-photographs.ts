import { downloadZip } from 'client-zip';

const NAME = 'photographs.zip';

/** Photographs and their list as one file, as they are; a zip file that is chosen alone is that file. */
export async function packPhotographs(files: readonly File[]): Promise<File> {
  const [first] = files;
  if (files.length === 1 && /\.zip$/i.test(first!.name)) return first!;
  // What is packed is called after the folder's list, which tells flights apart.
  const list = files.find(({ name }) => /\.(csv|txt|tsv|dat)$/i.test(name));
  const blob = await downloadZip(files.map((file) => ({ input: file, name: file.name, lastModified: file.lastModified }))).blob(); // prettier-ignore
  return new File([blob], list ? list.name.replace(/\.[^.]+$/, '.zip') : NAME, { type: 'application/zip' });
}
