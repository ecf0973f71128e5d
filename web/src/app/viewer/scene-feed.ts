import { ApiClient, urlOf } from '../api/api-client';
import { effect, inject, Injectable, untracked } from '@angular/core';
import type { Cloud, CloudNode } from '@pampero/contract';
import { unpackContours } from '@pampero/core/contours';
import { metresPer } from '@pampero/core/geodesy';
import type { FeatureCode } from '@pampero/core/lines';
import { firstValueFrom } from 'rxjs';
import { LookStore } from '../state/look-store';
import { JobStore } from '../state/job-store';
import { LayerStore } from '../state/layer-store';
import { LineStore, type LineSet } from '../state/line-store';
import { RendererStore } from '../state/renderer-store';
import { abgr } from '../drawing/colours';
import { PictureStore } from './picture-store';
import { TintStore } from './tint-store';
import { ContourLabels } from './contour-labels';
import { contourSegments } from '../drawing/contour-lines';
import { shapeSegments } from '../drawing/line-segments';
import { DrawingLink } from './drawing-link';
import type { ColumnKey } from '../drawing/column-key';
import { NewLand, type CloudInSight } from './new-land';
import { SceneLines } from './scene-lines';
import { rampTable } from '@pampero/core/tints';
import { ViewCameras } from './view-cameras';

const SELECTED = '#FF4FD8';
const FOUND = '#FF5A36';

/** What the points of a cloud have beside places and classes. */
function columnsOf({ columns, hasConfidence, hasAccuracy }: Cloud): ColumnKey[] {
  return [
    'intensity',
    'returns',
    'scanAngle',
    'pointSourceId',
    ...(columns.gpsTime ? (['gpsTime'] as const) : []),
    ...(columns.rgb ? (['colour'] as const) : []),
    ...(hasConfidence ? (['confidence'] as const) : []),
    ...(hasAccuracy ? (['accuracy'] as const) : []),
    ...(columns.nearInfrared && columns.rgb ? (['infrared'] as const) : []),
  ];
}

/** A cloud whose nodes are listed; anew where the revision is another. */
interface LoadedCloud extends CloudInSight {
  readonly revision: string;
}

const sourceOf = ({ name, source }: Cloud): string => `${name} from ${source.fileName}`;

const pointsStored = ({ classCounts }: Cloud): number =>
  Object.values(classCounts).reduce((sum, count) => sum + count, 0);

const CONTOUR_PARTS = ['between', 'index', 'marks'] as const;
type ContourPart = (typeof CONTOUR_PARTS)[number];

/** Cells along the longer side of the grid that the server keeps of a whole surface. */
const DISPLAY_CELLS = 1200;

/** Tells the drawing worker what there is and how it looks, and fetches the lines that go over it. */
@Injectable()
export class SceneFeed {
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);
  private readonly renderers = inject(RendererStore);
  private readonly look = inject(LookStore);
  private readonly cameras = inject(ViewCameras);
  private readonly link = inject(DrawingLink);
  private readonly api = inject(ApiClient);
  private readonly lines = inject(SceneLines);
  private readonly figures = inject(ContourLabels);
  private readonly tints = inject(TintStore);
  private readonly pictureLooks = inject(PictureStore);
  private readonly lineStore = inject(LineStore);

  private nodes = new Map<number, { revision: string; nodes: readonly CloudNode[] }>();
  private shownContourIds = new Set<number>();
  /** What each layer of lines shows and how. */
  private readonly drawnLines = new Map<string, string>();
  private loads = 0;
  private readonly land = new NewLand();

  constructor() {
    effect(() => {
      const clouds = this.store.inSight();
      const comingIn = new Set(this.store.comingIn().map(({ id }) => id));
      const jobId = this.store.jobId();
      untracked(
        () =>
          void this.loadNodes(
            jobId,
            clouds.map((cloud) => ({
              id: cloud.id,
              revision: `${cloud.revision} ${cloud.colours} ${comingIn.has(cloud.id) ? pointsStored(cloud) : ''}`,
              source: sourceOf(cloud),
              isComingIn: comingIn.has(cloud.id),
            })),
          ),
      );
    });
    effect(() => {
      this.layers.drawnClouds();
      this.cameras.origin();
      untracked(() => this.sendClouds());
    });
    effect(() => this.link.setPainter(this.renderers.wanted()));
    effect(() => this.sendStyle());
    effect(() => {
      this.cameras.origin();
      this.link.setSurfaces(this.tints.drawn());
      untracked(() => this.cameras.changed());
    });
    effect(() => this.link.setPictures(this.pictureLooks.drawn(), this.pictureLooks.wipe(), this.tints.areDraped()));
    // Close up the grid of the whole surface is coarser than the screen: a finer one of what Plan shows, once it rests.
    effect((onCleanup) => {
      const drawn = this.layers.drawnSurface() ? this.tints.drawn() : [];
      const { unitsPerPixel } = this.cameras.plan();
      const window = this.cameras.planWindow(1.2);
      const { min, max } = this.cameras.jobBounds();
      const coarse = Math.max(max[0] - min[0], max[1] - min[1]) / DISPLAY_CELLS;
      const [surface] = drawn;
      if (
        drawn.length !== 1 ||
        !surface ||
        surface.opacity < 1 ||
        unitsPerPixel * 1.6 > coarse ||
        window.east === window.west
      ) {
        this.link.setDetail(undefined);
        return;
      }
      const url = urlOf('readSurfaceWindow', {
        params: { jobId: this.store.jobId(), productId: surface.productId },
        query: { ...window, cell: 1.5 * unitsPerPixel },
      });
      const timer = setTimeout(() => this.link.setDetail({ ...surface, url }), 200);
      onCleanup(() => clearTimeout(timer));
    });
    effect(() => {
      const tried = this.figures.tried();
      const look = { colour: '#7a1f5c', isDepthTested: false };
      this.lines.set('contour-preview-between', tried?.between, { ...look, opacity: 0.6 });
      this.lines.set('contour-preview-index', tried?.index, { ...look, opacity: 1 });
    });
    effect(() => {
      const sets = this.lineStore.shown();
      const origin = this.cameras.origin();
      const codeOf = this.lineStore.codeOf();
      untracked(() => this.showLines(sets, origin, codeOf));
    });
    effect(() => {
      const wanted = this.layers.shownContours().map((set) => set.id);
      untracked(() => void this.showContours(wanted));
    });
    // What values are spread over is asked once the picture of the new mode has come.
    effect((onCleanup) => {
      const mode = this.look.mode();
      this.store.clouds();
      if (!untracked(() => this.look.ramped())) return;
      const timer = setTimeout(() => void this.readSpread(mode), 700);
      onCleanup(() => clearTimeout(timer));
    });
  }

  async readSpread(mode = this.look.mode()): Promise<void> {
    const spread = await this.link.ask('spread', { view: 'plan' });
    if (spread?.mode === mode) this.look.spread.set(spread);
  }

  private async loadNodes(jobId: string, clouds: readonly LoadedCloud[]): Promise<void> {
    const asked = ++this.loads;
    const fresh = new Map<number, { revision: string; nodes: readonly CloudNode[] }>();
    for (const { id, revision } of clouds) {
      const known = this.nodes.get(id);
      const nodes =
        known?.revision === revision
          ? known.nodes
          : await firstValueFrom(this.api.call('listNodes', { params: { jobId, cloudId: id } })).then(
              (answer) => answer.nodes,
              // One that was coming in may have come in, or have been cancelled, meanwhile: the job says so next.
              () => undefined,
            );
      if (nodes) fresh.set(id, { revision, nodes });
    }
    // The job has changed again meanwhile, and the lists of then would come over those of now.
    if (asked !== this.loads) return;
    this.nodes = fresh;
    const isFirst = this.land.isEmpty;
    if (this.land.take(clouds)) {
      if (isFirst) {
        const bounds = this.cameras.jobBounds();
        const round = (value: number): number => Math.round(value / 10) * 10;
        this.cameras.origin.set([
          round((bounds.min[0] + bounds.max[0]) / 2),
          round((bounds.min[1] + bounds.max[1]) / 2),
          round(this.store.inSight()[0]!.source.elevationRange[0]),
        ]);
      }
      this.sendClouds();
      this.cameras.frameAll();
      for (const id of this.shownContourIds) this.dropContours(id);
      void this.showContours(this.layers.shownContours().map((set) => set.id));
    } else this.sendClouds();
  }

  private sendClouds(): void {
    const clouds = this.layers.drawnClouds().flatMap((cloud) => {
      const nodes = this.nodes.get(cloud.id)?.nodes;
      if (!nodes) return [];
      const { min, max } = cloud.bounds;
      const pointSpacing = Math.sqrt(((max[0] - min[0]) * (max[1] - min[1])) / Math.max(1, cloud.pointCount));
      const { scale, offset } = cloud.quantisation;
      return [{ id: cloud.id, nodes, scale, offset, pointSpacing, columns: columnsOf(cloud) }];
    });
    this.link.setClouds(this.store.jobId(), this.cameras.origin(), clouds);
  }

  private sendStyle(): void {
    const colourOf = this.look.classColour();
    this.link.setStyle({
      mode: this.look.mode(),
      classColours: Uint32Array.from({ length: 256 }, (_, code) => abgr(colourOf(code))),
      strips: this.look.strips(),
      hides: Uint8Array.from({ length: 256 }, (_, code) => (this.look.hiddenClasses().has(code) ? 1 : 0)),
      range: this.look.range(),
      ramp: rampTable(this.look.ramp()),
      visible: this.look.visible(),
      pointSize: this.look.pointSize(),
      shading: this.look.shading(),
      detail: this.look.detail(),
      selected: abgr(SELECTED),
      found: abgr(FOUND),
    });
  }

  private async showContours(wanted: readonly number[]): Promise<void> {
    const jobId = this.store.jobId();
    for (const id of this.shownContourIds) if (!wanted.includes(id)) this.dropContours(id);
    for (const id of wanted) {
      if (this.shownContourIds.has(id)) continue;
      this.shownContourIds.add(id);
      const bytes = await firstValueFrom(this.api.call('showProduct', { params: { jobId, productId: id } })).catch(
        () => undefined,
      );
      if (!bytes || !this.shownContourIds.has(id)) continue;
      const set = unpackContours(new Uint8Array(bytes));
      const metre = 1 / metresPer(this.store.unit());
      const { index, between, marks } = contourSegments(set, this.cameras.origin(), metre);
      this.figures.show(id, set, this.store.contours().find((contours) => contours.id === id)?.parameters ?? {});
      const of = (part: ContourPart): string => `contours-${id}-${part}`;
      this.lines.set(of('between'), between, { colour: '#5A3A22', opacity: 0.55, isDepthTested: true });
      this.lines.set(of('index'), index, { colour: '#3B2212', opacity: 1, isDepthTested: true });
      this.lines.set(of('marks'), marks, { colour: '#5A3A22', opacity: 0.8, isDepthTested: true });
    }
  }

  /** Lines of each code in its colour and style; what is drawn already stays. */
  private showLines(
    sets: readonly LineSet[],
    origin: readonly [number, number, number],
    codeOf: (code: string) => FeatureCode | undefined,
  ): void {
    const metre = 1 / metresPer(this.store.unit());
    const wanted = new Map(
      sets.map((set) => {
        const { colour = '#0B5FA5', style = 'solid', opacity = 1 } = codeOf(set.product.facts.code) ?? {};
        const look = [set.product.id, colour, style, opacity, ...origin].join(' ');
        return [`lines-${set.product.seriesId}` as string, { set, colour, style, opacity, look }] as const;
      }),
    );
    for (const key of this.drawnLines.keys())
      if (!wanted.has(key)) {
        this.drawnLines.delete(key);
        this.lines.set(key, undefined);
      }
    for (const [key, { set, colour, style, opacity, look }] of wanted) {
      if (this.drawnLines.get(key) === look) continue;
      this.drawnLines.set(key, look);
      this.lines.set(key, shapeSegments(set.lines, origin, style, metre), { colour, opacity, isDepthTested: false });
    }
  }

  private dropContours(id: number): void {
    this.shownContourIds.delete(id);
    this.figures.drop(id);
    for (const part of CONTOUR_PARTS) this.lines.set(`contours-${id}-${part}`, undefined);
  }
}
