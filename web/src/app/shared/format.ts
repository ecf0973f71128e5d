import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { formatNumber, GAP } from '@pampero/core/wording';

export function formatBytes(bytes: number): string {
  if (bytes < 1e6) return `${formatNumber(bytes / 1e3, 0)}${GAP}kB`;
  return bytes < 1e9 ? `${formatNumber(bytes / 1e6, 1)}${GAP}MB` : `${formatNumber(bytes / 1e9, 2)}${GAP}GB`;
}

export function shortUnit(unit: LengthUnit): string {
  return lengthUnits[unit].short;
}
