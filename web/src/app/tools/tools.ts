import type { ToolId } from '../state/tool-id';
import type { IconName } from '../shared/icons';
import type { ViewId } from '../drawing/drawing-protocol';

export interface ToolFacts {
  readonly id: ToolId;
  readonly name: string;
  readonly icon: IconName;
  readonly key: string;
  /** What to do with it, shown while it is in hand. */
  readonly hint: string;
  readonly views: readonly ViewId[];
  readonly selects: boolean;
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
    hint: 'Click corners, or drag; a click on the first one or Enter closes.',
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
    hint: 'Drag over the points. [ and ] make it smaller and wider.',
    views: everywhere,
    selects: true,
  },
  {
    id: 'above',
    name: 'Above a line',
    icon: 'above',
    key: 'k',
    hint: 'In the section, click a line; Enter or a double click ends it. All above it is meant.',
    views: ['section'],
    selects: true,
  },
  {
    id: 'below',
    name: 'Below a line',
    icon: 'below',
    key: 'j',
    hint: 'In the section, click a line; Enter or a double click ends it. All below it is meant.',
    views: ['section'],
    selects: true,
  },
  {
    id: 'touch',
    name: 'Patch by touch',
    icon: 'touch',
    key: 't',
    hint: 'Click a point: all that hangs together with it is meant.',
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
    hint: 'Click points. Enter ends.',
    views: everywhere,
    selects: false,
  },
  {
    id: 'note',
    name: 'Note',
    icon: 'note',
    key: 'n',
    hint: 'Click the point that the note is about.',
    views: everywhere,
    selects: false,
  },
  {
    id: 'triangles',
    name: 'Triangles',
    icon: 'triangles',
    key: 'e',
    hint: 'Click in Plan: what a click does to the surface is chosen in Terrain.',
    views: ['plan'],
    selects: false,
  },
];

export const toolFacts = (id: ToolId): ToolFacts => TOOLS.find((tool) => tool.id === id)!;
