import type { LineRole } from './line-roles.js';

export const LINE_STYLES = ['solid', 'dashed', 'dotted', 'dash-dot'] as const;
export type LineStyle = (typeof LINE_STYLES)[number];

/** What lines of a feature code are, and how they are drawn and handed over. */
export interface FeatureCode {
  readonly code: string;
  /** What it stands for on site. */
  readonly meaning: string;
  readonly role: LineRole;
  /** `#rrggbb`. */
  readonly colour: string;
  readonly style: LineStyle;
  /** 0 to 1, for what is only to be looked at; left out, its lines hide what they lie over. */
  readonly opacity?: number | undefined;
  /** The layer of a drawing that its lines go on. */
  readonly layer: string;
}

const code = (
  name: string,
  meaning: string,
  role: LineRole,
  colour: string,
  style: LineStyle = 'solid',
): FeatureCode => ({ code: name, meaning, role, colour, style, layer: name });

/** What a job begins with: common features of the ground, by words that say what they are. Colours tell apart what lies side by side. */
export const DEFAULT_CODES: readonly FeatureCode[] = [
  code('KERB-FOOT', 'Kerb, foot at the gutter', 'breakline', '#B4412E'),
  code('KERB-TOP', 'Kerb, top of the face', 'breakline', '#E08A3C'),
  code('KERB-BACK', 'Kerb, back edge', 'breakline', '#C79A4B'),
  code('SEAL-EDGE', 'Edge of seal', 'breakline', '#9AA7B8'),
  code('ROAD-CENTRE', 'Road centre line', 'soft', '#7FA3C7', 'dash-dot'),
  code('TRACK', 'Track', 'soft', '#9A7B4F', 'dashed'),
  code('TRACK-EDGE', 'Edge of a track', 'breakline', '#B08B57'),
  code('BANK-TOP', 'Top of bank', 'breakline', '#A45FD0'),
  code('BANK-TOE', 'Toe of bank', 'breakline', '#C05BA8'),
  code('RIDGE', 'Ridge', 'breakline', '#C0703F'),
  code('DITCH', 'Bottom of ditch', 'breakline', '#2F9DBF'),
  code('WALL-TOP', 'Wall, top', 'breakline', '#C9B79C'),
  code('WALL-FOOT', 'Wall, foot', 'breakline', '#A08A6C'),
  code('SOFT-BREAK', 'Gentle break of the ground', 'soft', '#8FB34A', 'dashed'),
  code('BREAK', 'Break of the ground', 'breakline', '#2F8FE0'),
  code('CONTOUR-HAND', 'Contour kept by hand', 'contour', '#B57B4A'),
  code('WATER-EDGE', 'Edge of still water', 'water', '#3B9BF0'),
  code('RIVER-EDGE', 'Edge of flowing water', 'river', '#0FA3B1'),
  code('CHANNEL', 'Where water gathers', 'soft', '#2B9EB3', 'dash-dot'),
  code('BUILDING', 'Building outline', 'hole', '#D05A5A'),
  code('VOID', 'No ground', 'hole', '#B0B0B0', 'dotted'),
  code('SITE-BOUNDARY', 'Boundary of the survey', 'boundary', '#D11F5B', 'dash-dot'),
  code('FENCE', 'Fence', 'plain', '#56A96B', 'dashed'),
  code('PARCEL', 'Parcel boundary', 'plain', '#B58900', 'dash-dot'),
];

/** Where a line is put that brings no code of its own, by what it is for. */
export const CODE_OF_ROLE: Readonly<Record<LineRole, string>> = {
  breakline: 'BREAK',
  soft: 'SOFT-BREAK',
  boundary: 'SITE-BOUNDARY',
  hole: 'VOID',
  water: 'WATER-EDGE',
  river: 'RIVER-EDGE',
  contour: 'CONTOUR-HAND',
  plain: 'FENCE',
};
