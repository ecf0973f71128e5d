import { cutSections, type CutSectionsParameters, type Figure, type SectionsResource } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { packLines } from '@pampero/core/lines';
import { endAreaVolume } from '@pampero/core/sections';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { readProduct, readProductBlob, storeProduct } from '../../store/product-repository.js';
import { readChosenLine } from '../../passes/chosen-line.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

function work(parameters: CutSectionsParameters, { pool, unit, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const { along, key, surfaceId, otherId, step, left, right } = parameters;
    report(0.05, 'Reading surfaces');
    const { code, line } = await readChosenLine(job.read, along, key);
    const ids = otherId === undefined ? [surfaceId] : [surfaceId, otherId];
    const names: string[] = [];
    const tins: Buffer[] = [];
    for (const id of ids) {
      names.push((await readProduct(job.read, id, 'surface')).name);
      tins.push(await readProductBlob(job.read, id, 'tin'));
    }
    report(0.3, 'Cutting sections');
    const made = await pool.run('cutSections', { line: packLines([line]), tins, settings: { step, left, right } }, signal); // prettier-ignore
    const body: SectionsResource = {
      surfaces: names,
      sections: made.sections.map(({ station, easting, northing, bearing, profiles, areas }) => ({
        ...{ station, easting, northing, bearing },
        profiles: profiles.map(({ offset, elevation }) => ({
          offset: [...offset],
          elevation: Array.from(elevation, (z) => (Number.isNaN(z) ? null : z)),
        })),
        ...(areas && { cut: areas.cut, fill: areas.fill }),
      })),
    };
    const stations = body.sections.map(({ station }) => station);
    const volume = (label: string, value: number): Figure => ({ label, value, quantity: 'volume' });
    const figures: Figure[] = [
      { label: 'Length in plan', value: made.length, quantity: 'length' },
      { label: 'Sections', value: stations.length, quantity: 'count' },
      ...(made.exact
        ? [
            volume('Cut, end areas', endAreaVolume(stations, body.sections.map(({ cut = 0 }) => cut))), // prettier-ignore
            volume('Cut, exact', made.exact.cut),
            volume('Fill, end areas', endAreaVolume(stations, body.sections.map(({ fill = 0 }) => fill))), // prettier-ignore
            volume('Fill, exact', made.exact.fill),
          ]
        : []),
    ];
    return {
      outcome: `${formatCounted(stations.length, 'section')} along ${formatNumber(made.length, 1)} ${lengthUnits[unit].short} of ${code}`,
      figures,
      store: (models) =>
        storeProduct(models, {
          kind: 'sections',
          name: parameters.name ?? `Sections along ${code}`,
          operation: cutSections.id,
          parameters,
          facts: { count: stations.length, length: made.length, figures },
          blobs: { sections: new TextEncoder().encode(JSON.stringify(body)) },
          replaces,
        }),
    };
  };
}

export const operation = serverOperation(cutSections, work);
