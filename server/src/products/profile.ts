import type { ProductOf, ProfileResource } from '@pampero/contract';
import { metresPer } from '@pampero/core/geodesy';
import { elevationAt, simplified } from '@pampero/core/profiles';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import { csvTable } from './csv-table.js';
import type { ExportSite, ProductHome } from './product-home.js';

type Line = readonly (readonly [number, number])[];

/** Stations at even steps and wherever the first surface bends: place, elevation of each surface, grade to the next station. */
async function table({ models, job }: ExportSite, product: ProductOf<'profile'>): Promise<string> {
  const text = (await readProductBlob(models, product.id, 'profile')).toString();
  const { surfaces } = JSON.parse(text) as ProfileResource;
  const profiles = surfaces.map(({ station, elevation, easting, northing }) => ({
    station: Float64Array.from(station),
    easting: Float64Array.from(easting),
    northing: Float64Array.from(northing),
    elevation: Float64Array.from(elevation, (z) => z ?? NaN),
  }));
  const { length } = product.facts;
  const step = roundedStep(length / 100);
  const even = Array.from({ length: Math.floor(length / step) + 1 }, (_, k) => k * step);
  const bends = simplified(profiles[0]!, 0.02 / metresPer(job.unit)).station;
  const stations = [...new Set([...even, ...bends, length].map((s) => Number(s.toFixed(3))))].sort((a, b) => a - b);
  const line = product.parameters['line'] as Line;
  const rows = stations.map((at, k) => {
    const next = stations[k + 1];
    return [
      at.toFixed(3),
      ...placeAlong(line, at).map((v) => v.toFixed(3)),
      ...profiles.flatMap((profile) => {
        const z = elevationAt(profile, at);
        const rise = next === undefined ? NaN : (elevationAt(profile, next) - z) / (next - at);
        return [Number.isNaN(z) ? '' : z.toFixed(3), Number.isNaN(rise) ? '' : (100 * rise).toFixed(2)];
      }),
    ];
  });
  const head = ['station', 'easting', 'northing', ...surfaces.flatMap(({ name }) => [name, `${name} grade %`])];
  return csvTable([head, ...rows]);
}

/** A step of 1, 2 or 5 times a power of ten, near what is asked. */
function roundedStep(about: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(1e-3, about)));
  return power * (about / power < 1.5 ? 1 : about / power < 3.5 ? 2 : about / power < 7.5 ? 5 : 10);
}

function placeAlong(line: Line, station: number): [number, number] {
  let left = station;
  for (let k = 0; k + 1 < line.length; k++) {
    const [[ae, an], [be, bn]] = [line[k]!, line[k + 1]!];
    const length = Math.hypot(be - ae, bn - an);
    if ((left <= length || k === line.length - 2) && length > 0)
      return [ae + ((be - ae) * left) / length, an + ((bn - an) * left) / length];
    left -= length;
  }
  return [line[0]![0], line[0]![1]];
}

export const home: ProductHome<'profile'> = {
  kind: 'profile',
  shown: async (models, id) => ({ json: await readShownPart(models, 'profile', id, 'profile') }),
  writers: { csv: async (site, product) => ({ bytes: await table(site, product) }) },
};
