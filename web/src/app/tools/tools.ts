import type { Stage } from '@pampero/contract';
import type { ToolId } from '../state/tool-id';
import type { IconName } from '../shared/icons';
import type { ViewId } from '../drawing/view-id';

export interface ToolFacts {
  readonly id: ToolId;
  readonly name: string;
  readonly icon: IconName;
  readonly key: string;
  /** What to do with it, shown while it is in hand. */
  readonly hint: string;
  readonly views: readonly ViewId[];
  readonly selects: boolean;
  /** The stage it belongs to: elsewhere it is not among the tools, though its key takes it in hand. */
  readonly stage?: Stage;
}

const everywhere: readonly ViewId[] = ['plan', 'section', 'model'];

export const TOOLS: readonly ToolFacts[] = [
  {
    id: 'look',
    name: 'Look',
    icon: 'hand',
    key: 'q',
    hint: '',
    views: everywhere,
    selects: false,
  },
  {
    id: 'outline',
    name: 'Outline',
    icon: 'outline',
    key: 'o',
    hint: 'Click vertices, or drag. Click the first one or press Enter to close.',
    views: everywhere,
    selects: true,
  },
  {
    id: 'box',
    name: 'Box',
    icon: 'box',
    key: 'x',
    hint: 'Drag from corner to corner.',
    views: everywhere,
    selects: true,
  },
  {
    id: 'brush',
    name: 'Brush',
    icon: 'brush',
    key: 'p',
    hint: 'Drag over points. Press [ or ] to resize the brush.',
    views: everywhere,
    selects: true,
  },
  {
    id: 'above',
    name: 'Above a line',
    icon: 'above',
    key: 'k',
    hint: 'Click a line in the section to select everything above it. Press Enter or double click to end.',
    views: ['section'],
    selects: true,
  },
  {
    id: 'below',
    name: 'Below a line',
    icon: 'below',
    key: 'j',
    hint: 'Click a line in the section to select everything below it. Press Enter or double click to end.',
    views: ['section'],
    selects: true,
  },
  {
    id: 'touch',
    name: 'Patch by touch',
    icon: 'touch',
    key: 't',
    hint: 'Click a point to select the patch it belongs to.',
    views: everywhere,
    selects: true,
  },
  {
    id: 'section',
    name: 'Section',
    icon: 'section',
    key: 's',
    hint: '',
    views: ['plan'],
    selects: false,
  },
  {
    id: 'measure',
    name: 'Measure',
    icon: 'measure',
    key: 'm',
    hint: 'Click points. Press Enter to end.',
    views: everywhere,
    selects: false,
  },
  {
    id: 'note',
    name: 'Note',
    icon: 'note',
    key: 'n',
    hint: 'Click the point to note.',
    views: everywhere,
    selects: false,
  },
  {
    id: 'pen',
    name: 'Draw a line',
    icon: 'pen',
    key: 'd',
    hint: 'Click vertices. Enter or a double click ends the line, Backspace takes the last vertex back.',
    views: everywhere,
    selects: false,
  },
  {
    id: 'lines',
    name: 'Change lines',
    icon: 'lines',
    key: 'u',
    hint: 'Click a line, Shift adds to it. Drag a vertex to move it.',
    views: everywhere,
    selects: false,
  },
  {
    id: 'triangles',
    name: 'Triangles',
    icon: 'triangles',
    key: 'e',
    hint: 'Click in Plan. Choose in Terrain what a click does to the surface.',
    views: ['plan'],
    selects: false,
    stage: 'terrain',
  },
  {
    id: 'mask',
    name: 'Mask by colour',
    icon: 'pick',
    key: 'a',
    hint: 'Click places in Plan that look alike. Backspace takes the last one back.',
    views: ['plan'],
    selects: false,
    stage: 'classify',
  },
  {
    id: 'strips',
    name: 'Strips',
    icon: 'strips',
    key: 'y',
    hint: 'Click the trajectory in Plan. Choose in Align what a click does.',
    views: ['plan'],
    selects: false,
    stage: 'align',
  },
  {
    id: 'targets',
    name: 'Targets',
    icon: 'target',
    key: 'z',
    hint: 'Click the point of the cloud where the target lies.',
    views: everywhere,
    selects: false,
    stage: 'align',
  },
];

export const toolFacts = (id: ToolId): ToolFacts => TOOLS.find((tool) => tool.id === id)!;
