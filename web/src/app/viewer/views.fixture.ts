import { openJob } from '../screen.fixture';
import { signal, type Provider } from '@angular/core';
import { ApplicationRef } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Subject } from 'rxjs';
import type { Answers, PretendServer } from '../stores.fixture';
import { turn, type workbench } from '../stores.fixture';
import { JobStore } from '../state/job-store';
import { ViewStore } from '../state/view-store';
import { DrawingLink } from './drawing-link';
import { PlanCovers } from './plan-covers';
import { PlanMarks } from './plan-marks';
import { PointerTool } from './pointer-tool';
import { SectionComparison } from './section-comparison';
import { ViewCameras } from './view-cameras';

/** A question that was asked of the drawing worker, to be answered by the test. */
export interface Asked {
  readonly question: string;
  readonly about: Record<string, unknown>;
  answer(value: unknown): void;
}

/** The drawing worker made up by the test: it keeps what it was told and asked. */
export class PretendLink {
  readonly told: [string, ...unknown[]][] = [];
  readonly asked: Asked[] = [];
  readonly pictures$ = new Subject<unknown>();
  readonly trouble$ = new Subject<string>();
  readonly painter$ = new Subject<unknown>();

  ask(question: string, about: Record<string, unknown>): Promise<unknown> {
    return new Promise((answer) => this.asked.push({ question, about, answer }));
  }

  pick(view: string, column: number, row: number): Promise<unknown> {
    return this.ask('pick', { view, column, row });
  }

  /** The last that was told of a kind. */
  last(kind: string): unknown[] {
    return this.told
      .filter(([name]) => name === kind)
      .at(-1)!
      .slice(1);
  }

  questions(kind: string): Asked[] {
    return this.asked.filter(({ question }) => question === kind);
  }
}
for (const name of ['setClouds', 'setStyle', 'setPainter', 'setSurfaces', 'setPictures', 'setDetail', 'setPreviewed', 'setSelection', 'drop'])
  Object.defineProperty(PretendLink.prototype, name, {
    value(this: PretendLink, ...given: unknown[]) {
      this.told.push([name, ...given]);
    },
  }); // prettier-ignore

/** A tool in hand that draws nothing, until the test says otherwise. */
export const pretendTool = () => ({
  view: signal<string | undefined>(undefined),
  held: signal<readonly (readonly [number, number])[]>([]),
  at: signal<unknown>(undefined),
  worksIn: () => false,
});

export interface OpenedViews {
  readonly server: PretendServer;
  readonly said: string[];
  readonly job: JobStore;
  readonly cameras: ViewCameras;
  readonly views: ViewStore;
  readonly link: PretendLink;
  readonly tool: ReturnType<typeof pretendTool>;
  /** Lets effects run, and answers that have come be taken. */
  settled(): Promise<void>;
}

/** Far from nought, as land is. */
export const ORIGIN = [5_512_000, 6_150_000, 30] as const;

/** A job whose views are a thousand pixels wide and eight hundred high, with a worker made up by the test. */
export function openViews(
  bench: Partial<Parameters<typeof workbench>[0]>,
  { answers, providers = [] }: { answers?: Answers; providers?: readonly Provider[] } = {},
): OpenedViews {
  const [link, tool] = [new PretendLink(), pretendTool()];
  const opened = openJob(bench, {
    ...(answers && { answers }),
    providers: [
      SectionComparison,
      ViewCameras,
      PlanMarks,
      PlanCovers,
      { provide: DrawingLink, useValue: link },
      { provide: PointerTool, useValue: tool },
      ...providers,
    ],
  });
  const cameras = TestBed.inject(ViewCameras);
  cameras.size.set({ width: 1000, height: 800 });
  cameras.origin.set(ORIGIN);
  const settled = async (): Promise<void> => {
    TestBed.inject(ApplicationRef).tick();
    await turn(0);
    TestBed.inject(ApplicationRef).tick();
  };
  return { ...opened, cameras, views: TestBed.inject(ViewStore), link, tool, settled };
}

/** What a pointer does, as the page tells it. */
export function pointer(type: string, clientX: number, clientY: number): Event {
  return Object.assign(new Event(type, { bubbles: true }), { clientX, clientY, pointerId: 1 });
}
