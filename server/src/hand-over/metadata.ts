import { LONGITUDE_LATITUDE, planTransform } from '@pampero/core/geodesy';
import { XMLBuilder } from 'fast-xml-parser';
import { planeSystemOf } from '../crs/plane-system.js';
import { systemOf } from '../crs/system-words.js';
import { listClouds } from '../store/cloud-repository.js';
import { readHistory } from '../store/history-repository.js';
import { listProducts } from '../store/product-repository.js';
import type { PackageFacts } from './readme.js';

const text = (value: string): object => ({ 'gco:CharacterString': value });
const code = (list: string, value: string): object => ({
  [`gmd:${list}`]: {
    '@codeList': `https://standards.iso.org/iso/19139/resources/gmxCodelists.xml#${list}`,
    '@codeListValue': value,
    '#text': value,
  },
});

/**
 * The fields of ISO 19115:2003 that can be read from the job, as XML by ISO/TS 19139: title, abstract, extent, reference system,
 * lineage step by step, files. What only the surveyor knows, such as whose data it is, is left to be filled in.
 */
export async function packageMetadata({ job, models, note, files }: PackageFacts): Promise<string> {
  const clouds = await listClouds(models);
  const products = await listProducts(models);
  const { entries } = await readHistory(models);
  const box = geographicBox(
    job.crs,
    clouds.map(({ bounds }) => bounds),
  );
  const steps = entries.filter(({ state }) => state === 'done').reverse();
  const document = {
    '?xml': { '@version': '1.0', '@encoding': 'UTF-8' },
    'gmd:MD_Metadata': {
      '@xmlns:gmd': 'http://www.isotc211.org/2005/gmd',
      '@xmlns:gco': 'http://www.isotc211.org/2005/gco',
      'gmd:fileIdentifier': text(job.id),
      'gmd:language': text('eng'),
      'gmd:hierarchyLevel': code('MD_ScopeCode', 'dataset'),
      'gmd:dateStamp': { 'gco:Date': new Date().toISOString().slice(0, 10) },
      'gmd:metadataStandardName': text('ISO 19115:2003, ISO/TS 19139:2007'),
      'gmd:referenceSystemInfo': {
        'gmd:MD_ReferenceSystem': {
          'gmd:referenceSystemIdentifier': {
            'gmd:RS_Identifier': {
              'gmd:code': text(job.crs.epsg === undefined ? systemOf(job) : String(job.crs.epsg)),
              ...(job.crs.epsg !== undefined && { 'gmd:codeSpace': text('EPSG') }),
            },
          },
        },
      },
      'gmd:identificationInfo': {
        'gmd:MD_DataIdentification': {
          'gmd:citation': {
            'gmd:CI_Citation': {
              'gmd:title': text(job.name),
              'gmd:date': {
                'gmd:CI_Date': {
                  'gmd:date': { 'gco:Date': job.createdAt.slice(0, 10) },
                  'gmd:dateType': code('CI_DateTypeCode', 'creation'),
                },
              },
            },
          },
          'gmd:abstract': text(
            note ||
              `Topographic survey: ${[...clouds.map(({ name }) => name), ...products.map(({ name }) => name)].join('; ')}.`,
          ),
          'gmd:spatialRepresentationType': code(
            'MD_SpatialRepresentationTypeCode',
            products.some((p) => p.kind === 'surface') ? 'tin' : 'vector',
          ),
          'gmd:topicCategory': { 'gmd:MD_TopicCategoryCode': 'elevation' },
          ...(box && {
            'gmd:extent': {
              'gmd:EX_Extent': {
                'gmd:geographicElement': {
                  'gmd:EX_GeographicBoundingBox': {
                    'gmd:westBoundLongitude': { 'gco:Decimal': box.west.toFixed(6) },
                    'gmd:eastBoundLongitude': { 'gco:Decimal': box.east.toFixed(6) },
                    'gmd:southBoundLatitude': { 'gco:Decimal': box.south.toFixed(6) },
                    'gmd:northBoundLatitude': { 'gco:Decimal': box.north.toFixed(6) },
                  },
                },
              },
            },
          }),
        },
      },
      'gmd:distributionInfo': {
        'gmd:MD_Distribution': {
          'gmd:transferOptions': {
            'gmd:MD_DigitalTransferOptions': {
              'gmd:onLine': files.map(({ name, what }) => ({
                'gmd:CI_OnlineResource': {
                  'gmd:linkage': { 'gmd:URL': encodeURIComponent(name) },
                  'gmd:name': text(name),
                  'gmd:description': text(what),
                },
              })),
            },
          },
        },
      },
      'gmd:dataQualityInfo': {
        'gmd:DQ_DataQuality': {
          'gmd:scope': { 'gmd:DQ_Scope': { 'gmd:level': code('MD_ScopeCode', 'dataset') } },
          'gmd:lineage': {
            'gmd:LI_Lineage': {
              'gmd:processStep': steps.map(({ title, outcome, startedAt }) => ({
                'gmd:LI_ProcessStep': {
                  'gmd:description': text(`${title}: ${outcome}`),
                  'gmd:dateTime': { 'gco:DateTime': startedAt.slice(0, 19) },
                },
              })),
            },
          },
        },
      },
    },
  };
  return new XMLBuilder({ ignoreAttributes: false, attributeNamePrefix: '@', format: true }).build(document);
}

interface GeographicBox {
  readonly west: number;
  readonly south: number;
  readonly east: number;
  readonly north: number;
}

/** The clouds' extent on the globe, from points along its edges; none where the system is local. */
function geographicBox(
  crs: Parameters<typeof planeSystemOf>[0],
  bounds: readonly { readonly min: readonly number[]; readonly max: readonly number[] }[],
): GeographicBox | undefined {
  const proj4 = planeSystemOf(crs)?.proj4;
  if (!proj4 || bounds.length === 0) return undefined;
  const [west, south] = [0, 1].map((axis) => Math.min(...bounds.map(({ min }) => min[axis]!))) as [number, number];
  const [east, north] = [0, 1].map((axis) => Math.max(...bounds.map(({ max }) => max[axis]!))) as [number, number];
  const toGlobe = planTransform(proj4, LONGITUDE_LATITUDE);
  const along = [0, 0.25, 0.5, 0.75, 1].flatMap((t) => {
    const [e, n] = [west + t * (east - west), south + t * (north - south)];
    return [[e, south], [e, north], [west, n], [east, n]] as const; // prettier-ignore
  });
  const longitudes = Float64Array.from(along, ([e]) => e);
  const latitudes = Float64Array.from(along, ([, n]) => n);
  try {
    toGlobe(longitudes, latitudes);
  } catch {
    return undefined; // the clouds lie where their system does not reach: no extent is better than a wrong one
  }
  return {
    west: Math.min(...longitudes),
    south: Math.min(...latitudes),
    east: Math.max(...longitudes),
    north: Math.max(...latitudes),
  };
}
