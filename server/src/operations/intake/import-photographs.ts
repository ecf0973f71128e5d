import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { importPhotographs, type ImportPhotographsParameters, type Photograph } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import { FormatError } from '@pampero/core/formats';
import { readColumnNames } from '@pampero/core/formats/number-table';
import { posesOf, type PoseList } from '@pampero/core/formats/poses';
import { LONGITUDE_LATITUDE, metresPer, planTransform } from '@pampero/core/geodesy';
import { axesOf, widestAngle, type Mounting } from '@pampero/core/photographs';
import { POSE_LENGTH, PoseFinder, toRadians, type Trajectory } from '@pampero/core/strips';
import { formatCounted, formatNumber } from '@pampero/core/wording';
import { planeSystemOf } from '../../crs/plane-system.js';
import { photographsApart, unpackApart } from '../../imagery/picture-process.js';
import type { UnpackedFile } from '../../imagery/unpack-photographs.js';
import { cameraOf } from '../../passes/photograph-site.js';
import type { RunWork } from '../../runs/run-service.js';
import { insertTiles } from '../../store/picture-repository.js';
import { readProduct, readProductBlob, storeProduct } from '../../store/product-repository.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';

/** Names that are told before "and so many more". */
const MOST_NAMED = 3;

/** Photographs and their list; what is unreadable is refused before anything is kept. */
function begin(parameters: ImportPhotographsParameters, surroundings: FileSurroundings): RunWork {
  const { source, pool, library, job: about, unit } = surroundings;
  const { path, fileName } = source;
  const name = parameters.name ?? fileName.replace(/\.[^.]+$/, '');
  const { focalLength, pixelSize, principalRight, principalDown, k1, k2, k3, p1, p2, angles } = parameters;
  const perPixel = pixelSize / 1000;
  const camera = {
    focal: focalLength / perPixel,
    principalRight: principalRight / perPixel,
    principalDown: principalDown / perPixel,
    ...{ k1, k2, k3, p1, p2 },
  };
  return async ({ job, signal, report }) => {
    const folder = library.scratchPath('.photographs');
    await mkdir(folder, { recursive: true });
    try {
      const unpacked = await unpackApart({ path, fileName, folder: join(folder, 'in') }, signal, (share) =>
        report(0.15 * share, 'Unpacking'),
      );
      const { photographs: found, texts } = unpacked;
      if (found.length === 0)
        throw new FormatError('zip-unreadable', {
          what: `No photograph lies in ${fileName}.`,
          fix: 'Pack the photographs (JPEG, TIFF or PNG) and their list into one zip file.',
        });
      const [text, ...more] = texts;
      if (!text || more.length > 0)
        throw new FormatError('zip-unreadable', {
          what: text
            ? `${fileName} holds ${texts.length} texts, ${texts
                .map((each) => each.fileName)
                .slice(0, MOST_NAMED)
                .join(', ')}: which of them is the list of photographs?`
            : `${fileName} holds no list that says where its photographs were taken.`,
          fix: 'Put just one text with them (.csv or .txt): a line each with file, place and angles.',
        });
      const columns = readColumnNames(parameters.columns);
      const list = await pool.read('posesOfFile', { ...text, columns }, { ...text, signal });
      const { taken, remarks: left } = matched(list, found, text.fileName);
      const poses = await posesIn(list, text.fileName);
      const photographs = await photographsApart(
        { photographs: taken.map(({ file }) => file), folder: join(folder, 'tiles') },
        signal,
        (share) => report(0.15 + 0.75 * share, 'Reading photographs'),
      );
      report(0.9, 'Storing');
      const kept = photographs.map(({ tiles: _, ...size }, k): Photograph => {
        const { row, file } = taken[k]!;
        return { fileName: file.fileName, ...size, ...poses(row) };
      });
      const sizes = new Set(kept.map((photograph) => `${photograph.columns} by ${photograph.rows}`));
      for (const photograph of kept) widestAngle(cameraOf({ camera }, photograph));
      const remarks = [
        ...left,
        ...(sizes.size > 1 ? [`Photographs are of ${sizes.size} sizes: ${[...sizes].slice(0, MOST_NAMED).join(', ')}.`] : []), // prettier-ignore
      ];
      const pixels = kept.reduce((sum, photograph) => sum + photograph.columns * photograph.rows, 0);
      const heights = kept.map(({ up }) => up);
      return {
        outcome: [`${formatCounted(kept.length, 'photograph')} from ${fileName}`, ...remarks.map((remark) => remark.replace(/\.$/, ''))].join('. '), // prettier-ignore
        figures: [
          { label: 'Photographs', value: kept.length, quantity: 'count' },
          { label: 'Focal length, pixels', value: camera.focal, quantity: 'count' },
          ...remarks.map((remark) => ({ label: 'Remark', value: remark, quantity: 'text' as const })),
        ],
        store: async (models) => {
          const stored = await storeProduct(models, {
            kind: 'photographs',
            name,
            operation: importPhotographs.id,
            parameters: { ...parameters, fileName },
            facts: {
              ...{ count: kept.length, pixels, camera, angles, fileName, remarks },
              lowest: heights.reduce((a, b) => Math.min(a, b)),
              highest: heights.reduce((a, b) => Math.max(a, b)),
            },
            blobs: { list: Buffer.from(JSON.stringify(kept)) },
          });
          for (const { tiles } of photographs) await insertTiles(models, stored.productId, tiles);
          await rm(folder, { recursive: true, force: true });
          return stored;
        },
      };
    } catch (error) {
      await rm(folder, { recursive: true, force: true });
      throw error;
    }

    /** Place, angles and axes of a line of the list. */
    async function posesIn(list: PoseList, listName: string): Promise<(row: number) => PlacedPose> {
      const mounted: Mounting = {
        roll: toRadians(parameters.mountRoll),
        pitch: toRadians(parameters.mountPitch),
        heading: toRadians(parameters.mountHeading),
      };
      if (angles === 'platform' && parameters.trajectory !== undefined) {
        const product = await readProduct(job.read, parameters.trajectory, 'trajectory');
        const { arrays } = unpackArrays(await readProductBlob(job.read, product.id, 'records'));
        return alongTrajectory(list, listName, arrays as unknown as Trajectory, mounted, parameters);
      }
      const system = planeSystemOf(about.crs)?.proj4;
      const read = posesOf(
        list,
        listName,
        { angles, unit: parameters.angleUnit, positions: parameters.positions, north: parameters.north },
        system === undefined ? undefined : planTransform(LONGITUDE_LATITUDE, system),
        metresPer(unit),
      );
      return (row) => {
        const three = read.angles.map((column) => column[row]!) as Photograph['angles'];
        const place = { east: read.east[row]!, north: read.north[row]!, up: read.up[row]! };
        return { ...place, angles: three, axes: axesOf(angles, ...three, mounted) };
      };
    }
  };
}

/** Where a photograph was taken, and how the camera was turned. */
type PlacedPose = Pick<Photograph, 'east' | 'north' | 'up' | 'angles' | 'axes'>;

/** Photographs with their lines; those without one, and lines without one, are told. */
function matched(
  { files, skipped, firstSkipped }: PoseList,
  found: readonly UnpackedFile[],
  listName: string,
): { taken: { row: number; file: UnpackedFile }[]; remarks: string[] } {
  // Lists name files with folders and without, with their ending and without, as programs please.
  const bare = (name: string): string => name.split(/[\\/]/).at(-1)!.toLowerCase();
  const stem = (name: string): string => bare(name).replace(/\.[^.]+$/, '');
  const rowOf = new Map<string, number>();
  files.forEach((name, row) => {
    if (rowOf.has(bare(name)))
      throw new FormatError('columns-unknown', {
        what: `The list names ${name} twice.`,
        where: listName,
        fix: 'Leave one of the lines out.',
      });
    rowOf.set(bare(name), row);
  });
  const stems = new Map(files.map((name, row) => [stem(name), row]));
  const taken = found.flatMap((file) => {
    const row = rowOf.get(bare(file.fileName)) ?? stems.get(stem(file.fileName));
    return row === undefined ? [] : [{ row, file }];
  });
  if (taken.length === 0)
    throw new FormatError('columns-unknown', {
      what: `None of the ${found.length} photographs is in the list; it names ${files.slice(0, MOST_NAMED).join(', ')}.`,
      where: listName,
      fix: 'Give the photographs the names that the list has, or name the columns in their order.',
    });
  const rows = new Set(taken.map(({ row }) => row));
  const known = new Set(taken.map(({ file }) => file));
  const without = found.filter((file) => !known.has(file)).map(({ fileName }) => fileName);
  const unused = files.filter((_, row) => !rows.has(row));
  const some = (names: readonly string[]): string =>
    names.slice(0, MOST_NAMED).join(', ') + (names.length > MOST_NAMED ? ', …' : '');
  return {
    taken,
    remarks: [
      ...(skipped > 0 ? [`${formatCounted(skipped, 'line')} of the list cannot be read, the first is line ${firstSkipped}.`] : []), // prettier-ignore
      ...(without.length > 0 ? [`${formatCounted(without.length, 'photograph')} left out, not in the list: ${some(without)}.`] : []), // prettier-ignore
      ...(unused.length > 0 ? [`${formatCounted(unused.length, 'line')} of the list without a photograph: ${some(unused)}.`] : []), // prettier-ignore
    ],
  };
}

/** Poses of an aircraft at the times of the list, with the camera where it sits in it. */
function alongTrajectory(
  { columns, files }: PoseList,
  listName: string,
  trajectory: Trajectory,
  mounted: Mounting,
  { leverForward, leverRight, leverDown }: ImportPhotographsParameters,
): (row: number) => PlacedPose {
  const { time } = columns;
  if (!time)
    throw new FormatError('columns-missing', {
      what: `No column holds the time; there are file, ${Object.keys(columns).join(', ')}.`,
      where: listName,
      fix: 'Give the time of each photograph, on the clock of the trajectory.',
    });
  const finder = new PoseFinder(trajectory);
  const pose = new Float64Array(POSE_LENGTH);
  const lever = [leverForward, leverRight, leverDown];
  return (row) => {
    if (!finder.at(time[row]!, pose))
      throw new FormatError('times-doubtful', {
        what: `The trajectory does not say where the aircraft was at ${formatNumber(time[row]!, 3)} s, when ${files[row]} was taken; it goes from ${formatNumber(finder.start, 3)} to ${formatNumber(finder.end, 3)} s.`,
        where: listName,
        fix: 'Give times on the clock of the trajectory, and the trajectory of this flight.',
      });
    // The three angles again from the rotation, so that one way leads to axes.
    const [heading, pitch, roll] = [
      Math.atan2(pose[3]!, pose[6]!),
      Math.asin(Math.max(-1, Math.min(1, pose[9]!))),
      Math.atan2(-pose[10]!, -pose[11]!),
    ];
    const [east, north, up] = [0, 1, 2].map(
      (axis) => pose[axis]! + lever.reduce((sum, length, k) => sum + pose[3 + 3 * axis + k]! * length, 0),
    ) as [number, number, number];
    return { east, north, up, angles: [roll, pitch, heading], axes: axesOf('platform', roll, pitch, heading, mounted) };
  };
}

export const operation = fileOperation(importPhotographs, begin);
