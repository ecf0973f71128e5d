import type { ClientViewFacts } from '@pampero/contract';
import { unpackExtras, unpackLand, type ViewExtras, type ViewLand } from '@pampero/core/client-view';
import { unzlibSync } from 'fflate';

const textOf = (id: string): string | undefined => document.getElementById(id)?.textContent ?? undefined;

function bytesOf(base64: string): Uint8Array<ArrayBuffer> {
  const text = atob(base64);
  const bytes = new Uint8Array(text.length);
  for (let i = 0; i < text.length; i++) bytes[i] = text.charCodeAt(i);
  return bytes;
}

export function readFacts(): ClientViewFacts {
  return JSON.parse(textOf('facts') ?? '{}') as ClientViewFacts;
}

export function readLand(): ViewLand {
  const land = unpackLand(unzlibSync(bytesOf(textOf('land') ?? '')));
  document.getElementById('land')?.remove();
  return land;
}

/** What lies on the land; it stands behind the script in the file, so that the land is seen before it is read. */
export function readExtras(): ViewExtras {
  const extras = unpackExtras(unzlibSync(bytesOf(textOf('extras') ?? '')));
  document.getElementById('extras')?.remove();
  return extras;
}

/** The picture that lies over the land, no larger than `side`. */
export async function readPicture(side: number): Promise<ImageBitmap | undefined> {
  const base64 = textOf('picture');
  if (base64 === undefined) return undefined;
  const whole = await createImageBitmap(new Blob([bytesOf(base64)], { type: 'image/jpeg' }));
  const share = side / Math.max(whole.width, whole.height);
  const size =
    share < 1 ? { resizeWidth: Math.round(whole.width * share), resizeHeight: Math.round(whole.height * share) } : {};
  // Textures begin at the lower edge.
  const turned = await createImageBitmap(whole, { imageOrientation: 'flipY', ...size });
  whole.close();
  return turned;
}
