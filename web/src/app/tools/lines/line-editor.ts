import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import {
  cornerAt,
  CORNER_SOURCE_NAMES,
  CORNER_SOURCES,
  extendLine,
  joinLines,
  legCount,
  LineError,
  nearerEnd,
  reverseLine,
  sourceNumber,
  splitLine,
  trimLine,
  withCorner,
  withCornerAt,
  withoutCorner,
  type Corner,
  type LineShape,
} from '@pampero/core/lines';
import { formatCounted } from '@pampero/core/wording';
import { JobStore } from '../../state/job-store';
import { LineStore, type CodedLine } from '../../state/line-store';
import type { ToolEvent } from '../../viewer/pointer-tool';
import { ViewCameras } from '../../viewer/view-cameras';
import { ToolGestures } from '../tool-gestures';
import { LineHits, type CornerRef } from './line-hits';
import { LinePlaces, type FoundPlace } from './line-places';
import { NewestAsked } from './newest-asked';
import { toggled } from '../../shared/toggled';

/** Lines that are selected, the corner that is in hand, and what is done to them. */
@Injectable()
export class LineEditor {
  private readonly store = inject(JobStore);
  private readonly lines = inject(LineStore);
  private readonly cameras = inject(ViewCameras);
  private readonly gestures = inject(ToolGestures);
  private readonly places = inject(LinePlaces);
  private readonly hits = inject(LineHits);

  readonly keys = signal<ReadonlySet<number>>(new Set());
  readonly active = signal<CornerRef | undefined>(undefined);
  /** Where the corner that is dragged would go. */
  readonly dragged = signal<FoundPlace | undefined>(undefined);
  /** Waits for a click on the line to trim or extend to. */
  readonly wantsLine = signal<'trim' | 'extend' | undefined>(undefined);
  private press: CornerRef | undefined;
  private readonly pointer = new NewestAsked<ToolEvent>((event) => this.drag(event));

  readonly selected = computed<readonly CodedLine[]>(() => {
    const byKey = this.lines.byKey();
    return [...this.keys()].flatMap((key) => byKey.get(key) ?? []);
  });
  readonly activeCorner = computed(() => {
    const active = this.active();
    const line = active && this.lines.byKey().get(active.key);
    if (!active || !line || active.corner >= line.easting.length) return undefined;
    const corner = cornerAt(line, active.corner);
    return { ...active, ...corner, line, from: CORNER_SOURCE_NAMES[CORNER_SOURCES[corner.source] ?? 'none'] };
  });

  constructor() {
    this.gestures.handle('lines', {
      down: (event) => this.pressed(event),
      move: (event) => {
        if (this.press) void this.pointer.ask(event);
      },
      up: () => this.released(),
      click: (event) => this.clicked(event),
      doubleClick: (event) => this.insertAt(event),
      keyed: (event) => this.keyed(event),
      left: () => this.clear(),
    });
    // Lines that are gone are selected no more.
    effect(() => {
      const byKey = this.lines.byKey();
      const keys = untracked(this.keys);
      if ([...keys].some((key) => !byKey.has(key))) this.keys.set(new Set([...keys].filter((key) => byKey.has(key))));
    });
  }

  clear(): void {
    this.keys.set(new Set());
    this.active.set(undefined);
    this.dragged.set(undefined);
    this.wantsLine.set(undefined);
    this.press = undefined;
  }

  select(keys: readonly number[]): void {
    this.keys.set(new Set(keys));
    this.active.set(undefined);
  }

  private pressed(event: ToolEvent): void {
    this.press = this.hits.cornerUnder(event, this.selected());
    if (this.press) this.active.set(this.press);
  }

  private async drag({ view, px, py }: ToolEvent): Promise<void> {
    const press = this.press;
    if (!press) return;
    const own = (snap: { line: number }): boolean => this.lines.shownLines()[snap.line]?.key === press.key;
    const found = await this.places.find(view, px, py, { without: own }).catch(() => undefined);
    if (this.press) this.dragged.set(found);
  }

  private released(): void {
    const press = this.press;
    this.press = undefined;
    const to = this.dragged();
    this.dragged.set(undefined);
    if (!press || !to) return;
    const line = this.lines.byKey().get(press.key);
    if (!line) return;
    const { e, n, z, source } = to;
    const old = cornerAt(line, press.corner);
    if (old.e === e && old.n === n) return;
    this.change(line, withCornerAt(line, press.corner, { e, n, z, source }), 'Vertex moved');
  }

  private clicked(event: ToolEvent): void {
    const found = this.hits.lineAt(event);
    const wanted = this.wantsLine();
    if (wanted) {
      if (!found) this.store.say('There is no line here. Click the line to meet, or press Esc.');
      else this.meet(wanted, found.line);
      return;
    }
    const corner = this.hits.cornerUnder(event, this.selected());
    if (corner) {
      this.active.set(corner);
      return;
    }
    this.active.set(undefined);
    if (!found) {
      if (!event.shift) this.keys.set(new Set());
      return;
    }
    this.keys.update((keys) => (event.shift ? toggled(keys, found.line.key) : new Set([found.line.key])));
  }

  private insertAt(event: ToolEvent): void {
    const found = this.hits.lineAt(event);
    if (!found || !this.keys().has(found.line.key) || found.share <= 0 || found.share >= 1) return;
    this.change(found.line, withCorner(found.line, found), 'Vertex added');
    this.active.set({ key: found.line.key, corner: found.leg + 1 });
  }

  /** Sets the corner in hand to typed coordinates. */
  setCorner(change: Partial<Pick<Corner, 'e' | 'n' | 'z'>>): void {
    const at = this.activeCorner();
    if (!at) return;
    const { e, n, z } = { e: at.e, n: at.n, z: at.z, ...change };
    const source = change.z === undefined ? at.source : sourceNumber('typed');
    this.change(at.line, withCornerAt(at.line, at.corner, { e, n, z, source }), 'Vertex set');
  }

  removeCorner(): void {
    const at = this.activeCorner();
    if (!at) return;
    this.attempt(() => this.change(at.line, withoutCorner(at.line, at.corner), 'Vertex removed'));
    this.active.set(undefined);
  }

  /** Puts a corner in on the leg after the one in hand, at its middle. */
  addCorner(): void {
    const at = this.activeCorner();
    if (!at) return;
    const leg = Math.min(at.corner, legCount(at.line) - 1);
    this.change(at.line, withCorner(at.line, { leg, share: 0.5 }), 'Vertex added');
    this.active.set({ key: at.key, corner: leg + 1 });
  }

  split(): void {
    const at = this.activeCorner();
    if (!at) return;
    const isEnd = !at.line.isClosed && (at.corner === 0 || at.corner === at.line.easting.length - 1);
    if (isEnd) {
      this.store.say('Choose a vertex between the ends.');
      return;
    }
    const parts = splitLine(at.line, { leg: Math.max(0, at.corner - 1), share: at.corner === 0 ? 0 : 1 });
    const { code, key } = at.line;
    this.lines.put(parts.map((shape, k) => ({ code, shape, key: k === 0 ? key : undefined })), [], 'Line split'); // prettier-ignore
    this.active.set(undefined);
  }

  join(): void {
    const [a, b] = this.selected();
    if (!a || !b) return;
    const near = 3 * this.cameras.plan().unitsPerPixel;
    this.attempt(() => {
      const shape = joinLines(a, b, near);
      this.lines.put([{ code: a.code, shape, key: a.key }], [b.key], 'Lines joined');
      this.select([a.key]);
    });
  }

  turn(): void {
    const lines = this.selected();
    this.lines.put(lines.map((line) => ({ code: line.code, shape: reverseLine(line), key: line.key })), [], `${formatCounted(lines.length, 'line')} reversed`); // prettier-ignore
  }

  remove(): void {
    const keys = [...this.keys()];
    if (keys.length === 0) return;
    this.lines.put([], keys, `${formatCounted(keys.length, 'line')} removed`);
    this.clear();
  }

  setCode(code: string): void {
    const lines = this.selected();
    this.lines.put(lines.map((line) => ({ code, shape: line, key: line.key })), [], `${formatCounted(lines.length, 'line')} to ${code}`); // prettier-ignore
    this.lines.show(code);
  }

  /** Trims or extends the selected line to another: the end that lies nearer to it. */
  private meet(how: 'trim' | 'extend', other: CodedLine): void {
    const [line] = this.selected();
    this.wantsLine.set(undefined);
    if (!line || line.key === other.key) return;
    const end = nearerEnd(line, other);
    this.attempt(() =>
      this.change(
        line,
        how === 'trim' ? trimLine(line, other, end) : extendLine(line, end, other),
        how === 'trim' ? 'Line trimmed' : 'Line extended',
      ),
    );
  }

  /** Goes on to the next corner, or back. */
  walk(by: 1 | -1): void {
    const at = this.active();
    const line = at ? this.lines.byKey().get(at.key) : this.selected()[0];
    if (!line) return;
    const count = line.easting.length;
    const corner = at ? (at.corner + by + count) % count : by > 0 ? 0 : count - 1;
    this.active.set({ key: line.key, corner });
  }

  private change(line: CodedLine, shape: LineShape, what: string): void {
    this.lines.put([{ code: line.code, shape, key: line.key }], [], `${what}, ${line.code}`);
  }

  private attempt(act: () => void): void {
    try {
      act();
    } catch (error) {
      if (!(error instanceof LineError)) throw error;
      this.store.say([error.what, error.fix].filter(Boolean).join(' '));
    }
  }

  private keyed(event: KeyboardEvent): boolean {
    switch (event.key) {
      case 'Escape':
        if (this.wantsLine()) this.wantsLine.set(undefined);
        else if (this.active()) this.active.set(undefined);
        else if (this.keys().size > 0) this.clear();
        else return false;
        return true;
      case 'Delete':
      case 'Backspace':
        if (this.active()) this.removeCorner();
        else this.remove();
        return true;
      case '.':
      case ',':
        this.walk(event.key === '.' ? 1 : -1);
        return true;
      default:
        return false;
    }
  }
}
