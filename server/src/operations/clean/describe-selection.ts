import { asSelection } from '@pampero/contract';
import type { Selection, Shape } from '@pampero/core/selection';

/** A selection in a line of the field book: "2 outlines in Section, 1 taken away, invert". */
export function describeSelection(selection: Selection): string {
  const counts = new Map<string, number>();
  for (const { how, shape, seenOnly } of selection) {
    const what = how === 'invert' ? 'inverted' : `${shapeName(shape)}${seenOnly ? ', seen only' : ''}${SAID[how]}`;
    counts.set(what, (counts.get(what) ?? 0) + 1);
  }
  return [...counts].map(([what, count]) => (count === 1 ? what : `${count} × ${what}`)).join('; ');
}

const SAID = { add: '', take: ', taken away', keep: ', only within', invert: '' } as const;

function shapeName(shape: Shape): string {
  switch (shape.kind) {
    case 'outline':
    case 'stroke': {
      const view = (shape.view as { name?: string }).name;
      return `${shape.kind === 'outline' ? 'outline' : 'brush stroke'}${view ? ` in ${view[0]!.toUpperCase()}${view.slice(1)}` : ''}`;
    }
    case 'boundary':
      return shape.buffer === 0 ? 'boundary' : `boundary with a buffer of ${shape.buffer}`;
    case 'range':
      return `${shape.attribute.replaceAll('-', ' ')} ${shape.from ?? 'any'} to ${shape.to ?? 'any'}`;
    case 'returns':
      return `${shape.which.join(', ')} returns`;
    case 'classes':
      return `classes ${shape.classes.join(', ')}`;
    case 'points':
      return 'points touched';
    case 'all':
      return 'all that was shown';
  }
}

/** Parameters as the field book keeps them: the selection in words. */
export function selectionTold({
  selection,
  ...rest
}: {
  selection: Parameters<typeof asSelection>[0];
}): Record<string, unknown> {
  return { selection: describeSelection(asSelection(selection)), ...rest };
}
