import { FormatError } from '../format-error.js';
import { closedOff, type ReadLine } from '../lines/index.js';

/** Geometry types of OGC 06-103r4, 8.2; what they hold in space or with measures is a thousand, two or three on. */
const [LINE, POLYGON, MANY_LINES, MANY_POLYGONS, COLLECTION] = [2, 3, 5, 6, 7];
/** Collections within collections; nobody writes more than two. */
const DEEPEST = 20;

/**
 * Lines and outlines of a geometry in well-known binary (OGC 06-103r4, 8.2); points are passed over.
 * @throws FormatError
 */
export function readWkbLines(bytes: Uint8Array, code: string, where: string): ReadLine[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const wrong = (what: string): FormatError =>
    new FormatError('not-this-format', { what: `A geometry cannot be read: ${what}.`, where, fix: 'Save the file again from its source.' }); // prettier-ignore
  const lines: ReadLine[] = [];
  let at = 0;
  const need = (length: number): void => {
    if (at + length > bytes.length) throw wrong('it is cut short');
  };
  const geometry = (depth: number): void => {
    if (depth > DEEPEST) throw wrong(`it lies more than ${DEEPEST} deep in itself`);
    need(5);
    const isLittle = bytes[at] === 1;
    const number = (): number => {
      need(4);
      at += 4;
      return view.getUint32(at - 4, isLittle);
    };
    at++;
    const type = number();
    // Elevations and measures by a thousand (ISO), or by a bit each as some write it.
    const iso = type & 0x0fffffff;
    const kind = iso % 1000;
    const hasZ = Math.floor(iso / 1000) % 2 === 1 || (type & 0x80000000) !== 0;
    const hasM = Math.floor(iso / 1000) >= 2 || (type & 0x40000000) !== 0;
    if ((type & 0x20000000) !== 0) number();
    const width = 8 * (2 + (hasZ ? 1 : 0) + (hasM ? 1 : 0));
    const ring = (isRing: boolean): void => {
      const count = number();
      need(count * width);
      const corners = Array.from({ length: count }, (_, k): [number, number, number] => {
        const from = at + k * width;
        const z = hasZ ? view.getFloat64(from + 16, isLittle) : NaN;
        return [view.getFloat64(from, isLittle), view.getFloat64(from + 8, isLittle), Number.isFinite(z) ? z : NaN];
      });
      at += count * width;
      if (corners.some(([e, n]) => !Number.isFinite(e) || !Number.isFinite(n))) throw wrong('a vertex has no place');
      if (count > 1) lines.push(closedOff(corners, code, isRing));
    };
    if (kind === LINE) ring(false);
    else if (kind === POLYGON) for (let rings = number(); rings > 0; rings--) ring(true);
    else if (kind === MANY_LINES || kind === MANY_POLYGONS || kind === COLLECTION)
      for (let parts = number(); parts > 0; parts--) geometry(depth + 1);
    else if (kind === 1) at += width;
    else if (kind === 4) for (let parts = number(); parts > 0; parts--) geometry(depth + 1);
    else throw wrong(`type ${type} is not known`);
  };
  geometry(0);
  return lines;
}
