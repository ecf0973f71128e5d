import { describeProduct, formatFigure, newestLand } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { of, staleMark, type Gathered } from './gathered.js';
import { list, table, text, type ReportBlock } from './report-model.js';
import { surfaceMap } from './report-pictures.js';

export function strips(g: Gathered): ReportBlock[] {
  const { length } = g;
  return of(g, 'strip-differences').flatMap((product) => {
    const { agreement, limits } = product.facts;
    const holds = agreement.all.rmsd <= limits.between;
    return [
      text(
        `${product.name}${staleMark(product)}: RMSDz between strips ${length(agreement.all.rmsd)} over ${formatCount(agreement.all.count)} smooth patches. The limit of the class, ${length(limits.between)} (ASPRS Positional Accuracy Standards, 2014), ${holds ? 'holds' : 'does not hold'}.`,
      ),
      table(
        ['Strips', 'Patches', 'Median', 'RMSDz', '95 %', 'Largest'],
        agreement.pairs.map((pair) => [
          `${pair.one} and ${pair.two}`,
          formatCount(pair.count),
          ...[pair.median, pair.rmsd, pair.percentile95, pair.largest].map((value) => length(value)),
        ]),
        [2, 1, 1, 1, 1, 1],
      ),
    ];
  });
}

export function accuracy(g: Gathered): ReportBlock[] {
  const { length } = g;
  return of(g, 'accuracy').flatMap((product) => {
    const { figures, points, surfaceName, surveyError } = product.facts;
    return [
      text(
        `${product.name}${staleMark(product)}: the surface ${surfaceName} against the check points, whose own error of ${length(surveyError)} is taken in quadrature. NVA and VVA by the ASPRS Positional Accuracy Standards, edition 1 (2014).`,
      ),
      table(
        ['Figure', 'Value'],
        figures.map((figure) => [figure.label, formatFigure(figure, g.job.unit)]),
        [3, 1],
      ),
      table(
        ['Check point', 'Surveyed', 'Surface', 'Difference', 'Code', 'Counts'],
        points.map((p) => [
          p.number,
          length(p.elevation),
          p.surface === undefined ? 'none there' : length(p.surface),
          p.surface === undefined ? '' : length(p.surface - p.elevation),
          p.code,
          p.excluded ?? (p.surface === undefined ? 'no' : p.isVegetated ? 'VVA' : 'NVA'),
        ]),
        [1.2, 1.2, 1.2, 1.2, 1, 1.4],
      ),
    ];
  });
}

export async function map(g: Gathered): Promise<ReportBlock[]> {
  const surface = newestLand(of(g, 'surface'));
  if (!surface) return [];
  const contours = of(g, 'contours').at(-1);
  const { lowest, highest } = surface.facts;
  return [
    {
      kind: 'picture',
      image: await surfaceMap(g.models, surface.id, contours?.id),
      caption: `${surface.name}${staleMark(surface)}${contours ? ` with ${contours.name}${staleMark(contours)}` : ''}, north up; dark is ${g.length(lowest, 2)}, light is ${g.length(highest, 2)}. White is where nothing was measured.`,
    },
  ];
}

/** Alternatives of what could be built, with the earth they take. */
function designs(g: Gathered): ReportBlock[] {
  const { short } = lengthUnits[g.job.unit];
  const cubic = (value: number): string => `${formatNumber(value, 0)} ${short}³`;
  const rows = of(g, 'surface').flatMap((product) => {
    const { design } = product.facts;
    if (!design) return [];
    const { cut, fill } = design;
    return [[product.name + staleMark(product), cubic(cut), cubic(fill), cubic(fill - cut)]];
  });
  return rows.length === 0 ? [] : [table(['Design', 'Cut', 'Fill', 'Net'], rows, [2, 1, 1, 1])];
}

export function surfaces(g: Gathered): ReportBlock[] {
  const { length, job } = g;
  const { short } = lengthUnits[job.unit];
  const made = of(g, 'surface');
  const contours = of(g, 'contours');
  const grids = of(g, 'grid');
  return [
    ...(made.length > 0
      ? [
          table(
            ['Surface', 'Triangles', 'Points', 'Area in plan', 'Lowest', 'Highest', 'Longest edge'],
            made.map((product) => {
              const { facets, points, areaInPlan, lowest, highest, longestEdge } = product.facts;
              return [
                product.name + staleMark(product),
                formatCount(facets),
                formatCount(points),
                `${formatNumber(areaInPlan, 0)} ${short}²`,
                length(lowest, 2),
                length(highest, 2),
                length(longestEdge, 1),
              ];
            }),
            [2, 1.1, 1.1, 1.4, 1, 1, 1.2],
          ),
        ]
      : []),
    ...designs(g),
    ...(contours.length + grids.length > 0
      ? [
          list(
            [...contours, ...grids].map(
              (product) => `${product.name}${staleMark(product)}: ${describeProduct(product, job.unit)}.`,
            ),
          ),
        ]
      : []),
  ];
}

export function volumes(g: Gathered): ReportBlock[] {
  const { short } = lengthUnits[g.job.unit];
  const cubic = (value: number): string => `${formatNumber(value, 1)} ${short}³`;
  const made = of(g, 'volume');
  return made.length === 0
    ? []
    : [
        table(
          ['Volume', 'Cut', 'Fill', 'Fill less cut', 'Not covered'],
          made.map((product) => {
            const { cut, fill, uncovered } = product.facts;
            return [
              product.name + staleMark(product),
              cubic(cut),
              cubic(fill),
              cubic(fill - cut),
              `${formatNumber(uncovered, 1)} ${short}²`,
            ];
          }),
          [2, 1.2, 1.2, 1.2, 1.2],
        ),
      ];
}
