import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { formatCount, formatNumber, GAP } from '@pampero/core/wording';
import { z } from 'zod';

/** A figure of a summary: what it is, its value, its unit. */
export const figureSchema = z.strictObject({
  label: z.string(),
  value: z.union([z.number(), z.string()]),
  quantity: z.enum(['count', 'length', 'area', 'volume', 'share', 'seconds', 'text']),
});
export type Figure = z.infer<typeof figureSchema>;

export function formatShare(share: number): string {
  const percent = share * 100;
  return `${percent > 0 && percent < 0.1 ? '<0.1' : percent.toFixed(1)}${GAP}%`;
}

export function formatSeconds(seconds: number): string {
  if (seconds < 10) return `${seconds.toFixed(1)}${GAP}s`;
  if (seconds < 90) return `${Math.round(seconds)}${GAP}s`;
  return `${Math.floor(seconds / 60)}${GAP}min ${Math.round(seconds % 60)}${GAP}s`;
}

/** How long something still takes: whole seconds, or minutes from a minute and a half on. */
export function formatTimeLeft(seconds: number): string {
  return seconds < 90 ? `${Math.ceil(seconds)} s` : `${Math.ceil(seconds / 60)} min`;
}

/** A figure of a summary as it is read: value and unit. */
export function formatFigure(figure: Figure, unit: LengthUnit): string {
  const { value, quantity } = figure;
  if (typeof value === 'string') return value;
  switch (quantity) {
    case 'count':
      return formatCount(value);
    case 'length':
      return `${formatNumber(value, Math.abs(value) >= 1000 ? 1 : 3)}${GAP}${lengthUnits[unit].short}`;
    case 'area':
      return `${formatNumber(value, 1)}${GAP}${lengthUnits[unit].short}²`;
    case 'volume':
      return `${formatNumber(value, 1)}${GAP}${lengthUnits[unit].short}³`;
    case 'share':
      return formatShare(value);
    case 'seconds':
      return formatSeconds(value);
    default:
      return String(value);
  }
}
