// The guide's figure of a kerb before and after its lines are held, made by the program's own computation on a simulated street:
// `node scripts/kerb-figure.mjs`, after `npm run build`.
import { mkdirSync, writeFileSync } from 'node:fs';
import { followBreak, PointField } from '@pampero/core/breaks';
import { traceContours } from '@pampero/core/contours';
import { seededRandom } from '@pampero/core/task';
import { triangulate } from '@pampero/core/terrain';

const [LENGTH, WIDTH, STEP, POINTS_PER_SQUARE, NOISE, OFFSET] = [24, 12, 0.12, 16, 0.006, 0.15];
/** Where the kerb runs: a slow curve. The road falls gently to it, the footway rises from it. */
const kerbAt = (east) => 6 + 1.1 * Math.sin(east / 7);
const truth = (east, north) => {
  const beyond = north - kerbAt(east);
  return 20 + 0.012 * east + (beyond > 0 ? STEP + 0.02 * beyond : -0.025 * beyond);
};

const random = seededRandom(7);
const normal = () => random() + random() + random() - 1.5;
const count = LENGTH * WIDTH * POINTS_PER_SQUARE;
const points = {
  easting: Float64Array.from({ length: count }, () => random() * LENGTH),
  northing: Float64Array.from({ length: count }, () => random() * WIDTH),
  elevation: new Float64Array(count),
};
for (let i = 0; i < count; i++)
  points.elevation[i] = truth(points.easting[i], points.northing[i]) + 2 * NOISE * normal();

const [found] = followBreak(
  new PointField(points, 0.5),
  [
    [0.3, kerbAt(0.3)],
    [8, kerbAt(8) + 0.3],
    [16, kerbAt(16) - 0.3],
    [LENGTH - 0.3, kerbAt(LENGTH - 0.3)],
  ],
  {
    kind: 'kerb',
    leastHeight: 0.06,
    mostHeight: 0.25,
    faceWidth: 0.15,
    stoneWidth: 0,
    leastTurn: 0.1,
    halfProfile: 1,
    reach: 1,
    longestGap: 2,
  },
);
const lines = ['foot', 'top'].map((strand) => {
  const vertices = found.strands[strand];
  return { role: 'breakline', ...columns(vertices), isClosed: false };
});
function columns(vertices) {
  const [easting, northing, elevation] = [0, 1, 2].map((axis) => vertices.map((vertex) => vertex[axis]));
  return { easting, northing, elevation };
}

const surfaceOf = (held) =>
  triangulate(
    points.easting,
    points.northing,
    points.elevation,
    { maximumEdge: 0, lines: { largestStep: 0.5, offset: OFFSET, crossing: 'mean', crossingTolerance: 0.05 } },
    held,
  ).tin;

/** What of the land is shown, and how large. */
const [FROM, TO, SOUTH, NORTH, SCALE] = [6, 18, 3.8, 9.4, 60];
const [across, down] = [(TO - FROM) * SCALE, (NORTH - SOUTH) * SCALE];
const place = (east, north) => `${((east - FROM) * SCALE).toFixed(1)} ${((NORTH - north) * SCALE).toFixed(1)}`;
const isSeen = (east, north) => east > FROM - 1 && east < TO + 1 && north > SOUTH - 1 && north < NORTH + 1;

function panel(tin, held) {
  const [E, N, Z = 0] = tin.origin;
  const shades = new Map();
  for (let f = 0; f < tin.facets.length; f += 3) {
    const [a, b, c] = [tin.facets[f], tin.facets[f + 1], tin.facets[f + 2]];
    const corner = (k) => [tin.easting[k] + E, tin.northing[k] + N, tin.elevation[k] + Z];
    const [p, q, r] = [corner(a), corner(b), corner(c)];
    if (!isSeen(p[0], p[1])) continue;
    const [u, v] = [q.map((x, i) => x - p[i]), r.map((x, i) => x - p[i])];
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
    const size = Math.hypot(...n) * Math.sign(n[2]);
    // Light from the north-west, 45° up.
    const light = (-0.5 * n[0] + 0.5 * n[1] + Math.SQRT1_2 * n[2]) / size;
    const level = Math.round(Math.min(1, Math.max(0, 0.2 + 0.95 * light)) * 16) * 15;
    const path = `M${place(...p)}L${place(...q)}L${place(...r)}Z`;
    shades.set(level, (shades.get(level) ?? '') + path);
  }
  const relief = [...shades].map(([level, d]) => {
    const colour = `rgb(${level},${level},${Math.round(level * 0.96)})`;
    return `<path d="${d}" fill="${colour}" stroke="${colour}" stroke-width="0.6"/>`;
  });
  const set = traceContours(tin, { interval: 0.03, base: 0, indexEvery: 0, minimumLength: 0 });
  let contours = '';
  for (let l = 0; l < set.level.length; l++) {
    let pen = 'M';
    for (let k = set.starts[l]; k < set.starts[l + 1]; k++) {
      const [east, north] = [set.easting[k] + set.origin[0], set.northing[k] + set.origin[1]];
      if (isSeen(east, north)) contours += pen + place(east, north);
      pen = isSeen(east, north) ? 'L' : 'M';
    }
  }
  const drawn = held.map(({ easting, northing }) => `M${easting.map((east, k) => place(east, northing[k])).join('L')}`);
  return `${relief.join('')}<path d="${contours}" fill="none" stroke="#8a4b1f" stroke-width="0.9"/>${drawn.map((d) => `<path d="${d}" fill="none" stroke="#0b6e99" stroke-width="2.4"/>`).join('')}`;
}

const gap = 34;
const panels = [
  ['Before: the points alone', panel(surfaceOf([]), [])],
  ['After: foot and top of the kerb held, points 0.15 m beside them left out', panel(surfaceOf(lines), lines)],
];
const svg = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 ${across} ${2 * (down + gap)}" font-family="sans-serif" font-size="17">
<title>A kerb of 12 cm, before and after its lines are held: relief and contours every 3 cm</title>
<defs><clipPath id="window"><rect width="${across}" height="${down}"/></clipPath></defs>
<rect width="100%" height="100%" fill="#fff"/>
${panels.map(([words, drawn], k) => `<g transform="translate(0 ${k * (down + gap)})"><text x="4" y="23" fill="#222">${words}</text><g transform="translate(0 ${gap})" clip-path="url(#window)">${drawn}${k === 1 ? `<g transform="translate(${across - SCALE * 2 - 20} ${down - 20})"><rect x="-8" y="-22" width="${SCALE * 2 + 16}" height="32" fill="#fff" opacity="0.85"/><path d="M0 0h${SCALE * 2}" stroke="#222" stroke-width="3"/><text x="${SCALE}" y="-6" text-anchor="middle" font-size="14">2 m</text></g>` : ''}</g></g>`).join('\n')}
</svg>
`;
mkdirSync('docs/figures', { recursive: true });
writeFileSync('docs/figures/kerb.svg', svg);
console.log(`${(svg.length / 1000).toFixed(0)} kB, ${(found.agree * 100).toFixed(0)} % of profiles agree`);
