import { importLines, lineFormatOf, type ImportLinesParameters } from '@pampero/contract';
import type { ReadLine } from '@pampero/core/formats/lines';
import { CODE_OF_ROLE, isAreaRole, sourceNumber, type LineShape } from '@pampero/core/lines';
import { formatCount, formatCounted } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';
import { lineFigures } from './line-figures.js';
import { sortMadeLines, storeMadeLines, type MadeLine } from './made-lines.js';

/** Names of layers that say nothing. */
const NO_CODES: ReadonlySet<string> = new Set(['', '0', 'default', 'lines', 'entities']);
const LONGEST_CODE = 40;

/** Reads lines of a file and keeps them under their codes; a file that is none is refused before the run begins. */
async function begin(
  parameters: ImportLinesParameters,
  { pool, source, file, unit }: FileSurroundings,
): Promise<RunWork> {
  const { path, fileName } = source;
  const { order, curveTolerance, role } = parameters;
  const format = parameters.format === 'by-ending' ? lineFormatOf(fileName) : parameters.format;
  const read = await pool.read('linesOfFile', { path, fileName, format, order, unit, curveTolerance }, source);
  const lines = read.map((line): MadeLine => ({
    code: codeOf(line, parameters),
    shape: shapeOfLine(line, parameters),
  }));
  const made = await sortMadeLines(file.read, { lines, roleOfNew: role });
  return ({ historyId }) => {
    const vertices = made.shapes.reduce((sum, { easting }) => sum + easting.length, 0);
    const codes = made.changes.map(({ code, put }) => `${code} ${formatCount(put.length)}`);
    return Promise.resolve({
      outcome: `${formatCounted(lines.length, 'line')} with ${formatCount(vertices)} vertices`,
      figures: [
        ...lineFigures(made.shapes),
        { label: 'Codes', value: codes.slice(0, 20).join(', ') + (codes.length > 20 ? ', …' : ''), quantity: 'text' },
      ],
      store: (models) => storeMadeLines(models, historyId, importLines.id, made),
    });
  };
}

function codeOf({ layer }: ReadLine, { code, role }: ImportLinesParameters): string {
  if (code !== undefined) return code;
  const own = layer.replace(/[\p{Cc}\u2028\u2029]+/gu, ' ').trim().slice(0, LONGEST_CODE); // prettier-ignore
  return NO_CODES.has(own.toLowerCase()) ? CODE_OF_ROLE[role] : own;
}

function shapeOfLine(line: ReadLine, { level, role }: ImportLinesParameters): LineShape {
  const from = sourceNumber(level === undefined ? 'file' : 'typed');
  return {
    easting: Float64Array.from(line.easting),
    northing: Float64Array.from(line.northing),
    elevation: Float64Array.from(line.elevation, (z) => level ?? z),
    source: Uint8Array.from(line.elevation, (z) => (level === undefined && Number.isNaN(z) ? 0 : from)),
    isClosed: line.isClosed || (isAreaRole(role) && line.easting.length > 2),
  };
}

export const operation = fileOperation(importLines, begin);
