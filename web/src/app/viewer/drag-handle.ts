/** Follows a pointer from its press on a handle to its release; tells how far it has gone from the press, in pixels. */
export function dragHandle(
  press: PointerEvent,
  moved: (dx: number, dy: number) => void,
  done: () => void = () => undefined,
): void {
  press.stopPropagation();
  press.preventDefault();
  const target = press.currentTarget as Element;
  target.setPointerCapture(press.pointerId);
  const onMove = (event: Event): void => {
    const { clientX, clientY } = event as PointerEvent;
    event.stopPropagation();
    moved(clientX - press.clientX, clientY - press.clientY);
  };
  const onUp = (event: Event): void => {
    event.stopPropagation();
    target.removeEventListener('pointermove', onMove);
    target.removeEventListener('pointerup', onUp);
    target.removeEventListener('pointercancel', onUp);
    done();
  };
  target.addEventListener('pointermove', onMove);
  target.addEventListener('pointerup', onUp);
  target.addEventListener('pointercancel', onUp);
}
