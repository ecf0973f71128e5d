import type { Figure } from '@pampero/contract';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { formatCount, formatNumber, GAP } from '@pampero/core/wording';

export function formatShare(share: number): string {
  const percent = share * 100;
  return `${percent > 0 && percent < 0.1 ? '<0.1' : percent.toFixed(1)}${GAP}%`;
}

export function formatBytes(bytes: number): string {
  if (bytes < 1e6) return `${formatNumber(bytes / 1e3, 0)}${GAP}kB`;
  return bytes < 1e9 ? `${formatNumber(bytes / 1e6, 1)}${GAP}MB` : `${formatNumber(bytes / 1e9, 2)}${GAP}GB`;
}

export function formatSeconds(seconds: number): string {
  if (seconds < 10) return `${seconds.toFixed(1)}${GAP}s`;
  if (seconds < 90) return `${Math.round(seconds)}${GAP}s`;
  return `${Math.floor(seconds / 60)}${GAP}min ${Math.round(seconds % 60)}${GAP}s`;
}

export function shortUnit(unit: LengthUnit): string {
  return lengthUnits[unit].short;
}

/** A figure of a summary as it is read: value and unit. */
export function formatFigure(figure: Figure, unit: LengthUnit): string {
  const { value, quantity } = figure;
  if (typeof value === 'string') return value;
  switch (quantity) {
    case 'count':
      return formatCount(value);
    case 'length':
      return `${formatNumber(value, Math.abs(value) >= 1000 ? 1 : 3)}${GAP}${shortUnit(unit)}`;
    case 'area':
      return `${formatNumber(value, 1)}${GAP}${shortUnit(unit)}²`;
    case 'volume':
      return `${formatNumber(value, 1)}${GAP}${shortUnit(unit)}³`;
    case 'share':
      return formatShare(value);
    case 'seconds':
      return formatSeconds(value);
    default:
      return String(value);
  }
}
