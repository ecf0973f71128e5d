import { computed, inject, Injectable, signal } from '@angular/core';
import { cornerAt, cornersOf, planLength, shapeOf, type Corner } from '@pampero/core/lines';
import { between } from '@pampero/core/measuring';
import { formatNumber, GAP } from '@pampero/core/wording';
import { shortUnit } from '../../shared/format';
import { JobStore } from '../../state/job-store';
import { LineStore } from '../../state/line-store';
import { ViewStore } from '../../state/view-store';
import type { ToolEvent } from '../../viewer/pointer-tool';
import { gradeText } from '../measure-store';
import { ToolGestures } from '../tool-gestures';
import { heldPlace, sectionAcross, type LegRule } from './pen-guides';
import { LinePlaces, type FoundPlace } from './line-places';
import { NewestAsked } from './newest-asked';

/** A row of what is read while drawing. */
export interface Reading {
  readonly label: string;
  readonly value: string;
}

/** The pen: corners so far, where the next would go and what is to be read of it. */
@Injectable()
export class LinePen {
  private readonly store = inject(JobStore);
  private readonly lines = inject(LineStore);
  private readonly views = inject(ViewStore);
  private readonly gestures = inject(ToolGestures);
  readonly places = inject(LinePlaces);

  readonly code = signal('BREAK');
  readonly corners = signal<readonly Corner[]>([]);
  readonly hover = signal<FoundPlace | undefined>(undefined);
  readonly rule = signal<LegRule>('free');
  /** Whether a section is laid across each leg as it is drawn, and how wide it is to either side, job units. */
  readonly sectionFollows = signal(false);
  readonly sectionHalf = signal(5);
  /** The line that is gone on with, and at which of its ends. */
  private readonly goesOn = signal<{ readonly key: number; readonly isStart: boolean } | undefined>(undefined);
  /** Draws a guide for something else instead of a line. */
  private readonly guide = signal<{ readonly title: string; readonly use: (places: readonly [number, number][]) => void } | undefined>(undefined); // prettier-ignore
  readonly guideTitle = computed(() => this.guide()?.title);
  /** Direction that legs are held parallel to. */
  private readonly along = signal<readonly [number, number] | undefined>(undefined);
  private readonly pointer = new NewestAsked<ToolEvent>(async (event) =>
    this.hover.set(await this.find(event).catch(() => undefined)),
  );
  /** Clicks are dealt with one after the other: each may have to ask for its elevation. */
  private clicks = Promise.resolve();
  /** Clicks that have not found their place yet; a key pressed after them counts them in. */
  private waiting = 0;

  readonly isDrawing = computed(() => this.corners().length > 0);

  constructor() {
    this.gestures.handle('pen', {
      move: (event) => void this.pointer.ask(event),
      click: (event) => this.clicked(event),
      // The second click of the pair lies where the first does and puts nothing.
      doubleClick: () => this.finish(),
      keyed: (event) => this.keyed(event),
      left: () => this.cancel(),
    });
  }

  /** Draws rough places for something else; two clicks or more, then Enter. */
  drawGuide(title: string, use: (places: readonly [number, number][]) => void): void {
    this.cancel();
    this.guide.set({ title, use });
    this.views.takeTool('pen');
  }

  readonly readings = computed<readonly Reading[]>(() => {
    const [at, corners] = [this.hover(), this.corners()];
    const unit = shortUnit(this.store.unit());
    const length = (value: number): string => `${formatNumber(value, 3)}${GAP}${unit}`;
    if (!at) return [];
    const last = corners.at(-1);
    const first = corners[0];
    const none = this.places.heightSource() === 'surface' ? 'outside the surface' : 'none here';
    const grade = (from: Corner): string => {
      const of = between([from.e, from.n, from.z], [at.e, at.n, at.z]);
      return Number.isNaN(from.z + at.z) ? '–' : gradeText(of.grade, of.ratio, of.degrees);
    };
    const along = planLength(shapeOf(corners, false));
    const leg = last ? Math.hypot(at.e - last.e, at.n - last.n) : 0;
    const rise = first && at.z - first.z;
    return [
      { label: 'Elevation', value: Number.isNaN(at.z) ? none : length(at.z) },
      ...(last
        ? [
            { label: 'This leg', value: length(leg) },
            { label: 'Grade', value: grade(last) },
          ]
        : []),
      ...(first && corners.length > 1
        ? [
            { label: 'From the start', value: length(along + leg) },
            {
              label: 'Grade from the start',
              value: rise === undefined || Number.isNaN(rise) ? '–' : `${formatNumber((100 * rise) / Math.max(1e-9, along + leg), 2)}${GAP}%`, // prettier-ignore
            },
          ]
        : []),
    ];
  });

  /** Where the pointer holds the leg. */
  private hold = (place: readonly [number, number]): readonly [number, number] => {
    const corners = this.corners();
    const last = corners.at(-1);
    const before = corners.at(-2);
    const along = this.rule() === 'parallel' ? this.along() : last && before ? ([last.e - before.e, last.n - before.n] as const) : undefined; // prettier-ignore
    return heldPlace(this.rule(), place, last && [last.e, last.n], along);
  };

  private find({ view, px, py }: Pick<ToolEvent, 'view' | 'px' | 'py'>): Promise<FoundPlace | undefined> {
    return this.places.find(view, px, py, { hold: this.hold, from: this.corners().at(-1) });
  }

  private clicked(event: ToolEvent): void {
    this.waiting++;
    this.later(async () => {
      const place = await this.find(event).finally(() => this.waiting--);
      if (!place) {
        this.store.say('There is no point here. Zoom in, or click nearer to one.');
        return;
      }
      this.put(place);
    });
  }

  private put(place: FoundPlace): void {
    const corners = this.corners();
    const last = corners.at(-1);
    if (last?.e === place.e && last.n === place.n) return; // the second click of a double click
    const { e, n, z, source, snap } = place;
    // Begun at the end of an open line of the same code: gone on with it.
    if (corners.length === 0 && snap?.corner !== undefined && !this.guide()) {
      const line = this.lines.shownLines()[snap.line];
      const isStart = snap.corner === 0;
      if (line && !line.isClosed && line.code === this.code() && (isStart || snap.corner === line.easting.length - 1)) {
        this.goesOn.set({ key: line.key, isStart });
        this.corners.set(isStart ? cornersOf(line).reverse() : cornersOf(line));
        return;
      }
    }
    const [first] = corners;
    if (first && corners.length > 2 && Math.hypot(first.e - e, first.n - n) < 1e-9) {
      this.close();
      return;
    }
    this.corners.set([...corners, { e, n, z, source }]);
    this.followWithSection();
  }

  private followWithSection(): void {
    const corners = this.corners();
    const [from, to] = [corners.at(-2), corners.at(-1)];
    if (!this.sectionFollows() || !from || !to) return;
    const across = sectionAcross([from.e, from.n], [to.e, to.n], this.sectionHalf());
    if (across) this.views.section.set(across);
  }

  undoCorner(): void {
    this.later(() => this.corners.update((corners) => corners.slice(0, -1)));
  }

  close(): void {
    this.later(() => this.keep(true));
  }

  finish(): void {
    this.later(() => this.keep(false));
  }

  private keep(isClosed: boolean): void {
    const corners = this.corners();
    const guide = this.guide();
    if (corners.length < (isClosed ? 3 : 2)) {
      if (corners.length > 0)
        this.store.say(isClosed ? 'An outline needs three vertices.' : 'A line needs two vertices.');
      return;
    }
    if (guide) {
      this.reset();
      this.guide.set(undefined);
      this.views.tool.set('look');
      guide.use(corners.map(({ e, n }): [number, number] => [e, n]));
      return;
    }
    const going = this.goesOn();
    const ordered = going?.isStart ? [...corners].reverse() : corners;
    const shape = shapeOf(ordered, isClosed);
    const code = this.code();
    this.lines.put([{ code, shape, key: going?.key }], [], going ? `${code} continued` : `${code} drawn, ${corners.length} vertices`); // prettier-ignore
    this.lines.show(code);
    this.reset();
  }

  private reset(): void {
    this.corners.set([]);
    this.goesOn.set(undefined);
  }

  cancel(): void {
    this.reset();
    this.guide.set(undefined);
    this.hover.set(undefined);
  }

  /** Holds legs parallel to the line under the pointer. */
  holdParallel(): void {
    const at = this.hover();
    const snap = at && this.places.snap(at.e, at.n);
    const line = snap && this.lines.shownLines()[snap.line];
    if (!line) {
      this.store.say('Point at the line that the legs should be parallel to, then press P again.');
      return;
    }
    const [a, b] = [cornerAt(line, snap.leg), cornerAt(line, (snap.leg + 1) % line.easting.length)];
    this.along.set([b.e - a.e, b.n - a.n]);
    this.rule.set('parallel');
  }

  private later(act: () => void | Promise<void>): void {
    this.clicks = this.clicks.then(act).catch(() => undefined);
  }

  private keyed(event: KeyboardEvent): boolean {
    switch (event.key) {
      case 'Escape':
        if (this.isDrawing()) this.reset();
        else if (this.guide()) {
          this.cancel();
          this.views.tool.set('look');
        } else return false;
        return true;
      case 'Backspace':
        if (!this.isDrawing() && this.waiting === 0) return false;
        this.undoCorner();
        return true;
      case 'Enter':
        if (this.corners().length + this.waiting < 2) return false;
        this.finish();
        return true;
      case 'Shift':
        return true;
      case 'o':
        this.rule.update((rule) => (rule === 'ortho' ? 'free' : 'ortho'));
        return true;
      case 'p':
        if (this.rule() === 'parallel') this.rule.set('free');
        else this.holdParallel();
        return true;
      case 'a':
        if (this.corners().length + this.waiting < 3) return false;
        this.close();
        return true;
      default:
        return false;
    }
  }
}
