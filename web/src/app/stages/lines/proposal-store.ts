import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { BREAK_CODES, proposalSchema, type Proposal as StoredProposal } from '@pampero/contract';
import { shapeOf, type LineShape } from '@pampero/core/lines';
import { firstValueFrom } from 'rxjs';
import { z } from 'zod';
import { ApiClient, jsonOf } from '../../api/api-client';
import { shapeSegments } from '../../drawing/line-segments';
import { JobStore } from '../../state/job-store';
import { layerKey, LayerStore } from '../../state/layer-store';
import { ViewStore } from '../../state/view-store';
import { sectionAcross } from '../../tools/lines/pen-guides';
import { SceneLines } from '../../viewer/scene-lines';
import { ViewCameras } from '../../viewer/view-cameras';

/** One of a set, by its place in it. */
export interface Proposal extends StoredProposal {
  readonly number: number;
}

const [WAITING, CURRENT] = ['#F08A24', '#FF4FD8'];
/** Land shown about a proposal, in its own lengths, and no less than so many job units. */
const [ABOUT, LEAST_ABOUT] = [1.3, 20];
/** To either side of the section across it, job units. */
const HALF_SECTION = 4;

/** Lines that were found and wait: walked one by one, accepted or refused with a key. */
@Injectable()
export class ProposalStore {
  private readonly api = inject(ApiClient);
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);
  private readonly views = inject(ViewStore);
  private readonly cameras = inject(ViewCameras);
  private readonly lines = inject(SceneLines);

  readonly set = computed(() => this.store.newest('proposals'));
  private readonly read = signal<{ readonly id: number; readonly all: readonly Proposal[] } | undefined>(undefined);
  readonly proposals = computed<readonly Proposal[]>(() => {
    const [set, read] = [this.set(), this.read()];
    return set && read?.id === set.id ? read.all : [];
  });
  readonly waiting = computed(() => this.proposals().filter(({ state }) => state === 'waiting'));
  readonly current = signal<number | undefined>(undefined);
  private drawn = 0;

  constructor() {
    effect(() => {
      const set = this.set();
      untracked(() => void this.load(set?.id));
    });
    effect(() => {
      const set = this.set();
      const isShown = set !== undefined && this.layers.isShown(layerKey('proposals', set.id));
      const waiting = isShown ? this.waiting() : [];
      const current = this.current();
      const origin = this.cameras.origin();
      untracked(() => {
        if (this.drawn + waiting.length === 0) return;
        this.drawn = waiting.length;
        const of = (isOf: (proposal: Proposal) => boolean): Float32Array =>
          shapeSegments(waiting.filter(isOf).flatMap(shapesOf), origin, 'solid', 1);
        const look = { opacity: 1, isDepthTested: false };
        this.lines.set(
          'proposals',
          of(({ number }) => number !== current),
          { ...look, colour: WAITING },
        );
        this.lines.set(
          'proposal-current',
          of(({ number }) => number === current),
          { ...look, colour: CURRENT },
        );
      });
    });
  }

  private async load(id: number | undefined): Promise<void> {
    if (id === undefined) {
      this.read.set(undefined);
      return;
    }
    const call = this.api.call('showProduct', { params: { jobId: this.store.jobId(), productId: id } });
    const bytes = await firstValueFrom(call).catch(() => undefined);
    if (!bytes) return;
    this.read.set({
      id,
      all: jsonOf(bytes, z.array(proposalSchema)).map((proposal, number) => ({ ...proposal, number })),
    });
  }

  /** Which codes the strands of a proposal would have. */
  codesOf({ strands }: Proposal): readonly string[] {
    const kind = this.set()?.facts.kind;
    const codes: Readonly<Record<string, string>> = kind ? BREAK_CODES[kind] : {};
    return Object.keys(strands).map((strand) => codes[strand] ?? strand);
  }

  show(number: number): void {
    this.current.set(number);
    const proposal = this.proposals()[number];
    const corners = proposal && Object.values(proposal.strands)[0];
    if (!proposal || !corners || corners.length < 2) return;
    const at = corners[corners.length >> 1]!;
    const before = corners[Math.max(0, (corners.length >> 1) - 1)]!;
    this.cameras.lookClose(at, Math.max(LEAST_ABOUT, Math.min(200, ABOUT * proposal.length)));
    const across = sectionAcross([before[0], before[1]], [at[0], at[1]], HALF_SECTION);
    if (across) this.views.section.set(across);
  }

  go(by: 1 | -1): void {
    const waiting = this.waiting();
    if (waiting.length === 0) return;
    const at = waiting.findIndex(({ number }) => number === this.current());
    const next = at === -1 ? waiting.find(({ number }) => number > (this.current() ?? -1)) ?? waiting[0]! : waiting[(at + by + waiting.length) % waiting.length]!; // prettier-ignore
    this.show(next.number);
  }

  judge(how: 'accept' | 'refuse', numbers?: readonly number[]): void {
    const set = this.set();
    const current = this.current();
    const judged = numbers ?? (current === undefined ? [] : [current]);
    const open = judged.filter((number) => this.proposals()[number]?.state === 'waiting');
    if (!set || open.length === 0) return;
    this.store.start('judge-proposals', { proposalsId: set.id, [how]: open }, ({ problem }) => {
      this.store.say(problem.detail);
      // They wait still.
      void this.load(set.id);
    });
    // What was judged waits no more, before the server has answered.
    const done = new Set(open);
    this.read.update((read) => read && { ...read, all: read.all.map((proposal) => (done.has(proposal.number) ? { ...proposal, state: how === 'accept' ? 'accepted' : 'refused' } : proposal)) }); // prettier-ignore
    if (numbers === undefined) this.go(1);
  }
}

function shapesOf({ strands, isClosed }: Proposal): LineShape[] {
  return Object.values(strands).map((corners) =>
    shapeOf(
      corners.map(([e, n, height]) => ({ e, n, z: height, source: 0 })),
      isClosed,
    ),
  );
}
