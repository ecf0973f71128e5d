import type { Key } from '../shared/key-table';

/** A step of the arrow keys, to the right and up. */
export const ARROW_STEPS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};
/** Nearer and further, by how much. */
export const ZOOM_STEPS: Readonly<Record<string, number>> = { '+': 0.8, '=': 0.8, '-': 1.25 };

/** What the views answer to while one of them has the focus; the tool in hand is asked first. */
export const VIEW_KEYS: readonly Key[] = [
  {
    press: Object.keys(ARROW_STEPS),
    shown: 'Arrows',
    does: 'Move Plan, turn Model, walk the section along and across; Shift goes further',
  },
  { press: Object.keys(ZOOM_STEPS), shown: '+ and −', does: 'Zoom in and out, as the wheel does' },
  {
    press: [],
    shown: 'Arrows, Space, Enter',
    does: 'With a tool in hand: move its cross, set a place, end; Backspace takes one back',
  },
  { press: [], shown: 'Shift, Alt', does: 'While drawing: add to the selection, take away from it' },
  { press: [], shown: 'Right button and drag', does: 'Move the view, whatever tool is in hand' },
];
