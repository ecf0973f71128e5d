import { effect, inject, Injectable, untracked } from '@angular/core';
import { HttpClient } from '@angular/common/http';
import type { Cloud, CloudNode } from '@pampero/contract';
import { unpackContours } from '@pampero/core/contours';
import { metresPer } from '@pampero/core/geodesy';
import { firstValueFrom, Subject } from 'rxjs';
import { LookStore } from '../workbench/look-store';
import { WorkbenchStore } from '../workbench/workbench-store';
import { abgr } from './colours';
import { SurfaceEditStore } from '../terrain/surface-edit-store';
import { TintStore } from '../terrain/tint-store';
import { ContourFigures } from './contour-figures';
import { contourSegments } from './contour-lines';
import { lineSegments, type LineFile } from './line-segments';
import { DrawingLink } from './drawing-link';
import type { ColumnKey } from './point-values';
import type { LineLayer } from './picture-sink';
import { rampTable } from '@pampero/core/tints';
import { ViewCameras } from './view-cameras';

const SELECTED = '#FF4FD8';
const FOUND = '#FF5A36';

/** What the points of a cloud have beside places and classes. */
function columnsOf({ columns, hasConfidence }: Cloud): ColumnKey[] {
  return [
    'intensity',
    'returns',
    'scanAngle',
    'pointSourceId',
    ...(columns.gpsTime ? (['gpsTime'] as const) : []),
    ...(columns.rgb ? (['colour'] as const) : []),
    ...(hasConfidence ? (['confidence'] as const) : []),
  ];
}

/** Cells along the longer side of the grid that the server keeps of a whole surface. */
const DISPLAY_CELLS = 1200;

/** Tells the drawing worker what there is and how it looks, and fetches the lines that go over it. */
@Injectable()
export class SceneFeed {
  private readonly store = inject(WorkbenchStore);
  private readonly look = inject(LookStore);
  private readonly cameras = inject(ViewCameras);
  private readonly link = inject(DrawingLink);
  private readonly http = inject(HttpClient);
  private readonly figures = inject(ContourFigures);
  private readonly tints = inject(TintStore);
  private readonly surfaceEdits = inject(SurfaceEditStore);

  /** Lines that came or went; undefined layers are gone. */
  readonly lines$ = new Subject<{ readonly key: string; readonly layer: LineLayer | undefined }>();
  private nodes = new Map<number, { revision: number; nodes: readonly CloudNode[] }>();
  private shownContourIds = new Set<number>();
  private shownLineIds = new Set<string>();
  private framedCloudIds = '';

  constructor() {
    effect(() => {
      const clouds = this.store.clouds();
      const jobId = this.store.jobId();
      untracked(
        () =>
          void this.loadNodes(
            jobId,
            clouds.map((cloud) => ({ id: cloud.id, revision: cloud.revision })),
          ),
      );
    });
    effect(() => {
      this.store.shownClouds();
      this.cameras.origin();
      untracked(() => this.sendClouds());
    });
    effect(() => this.link.setPainter(this.store.wantedPainter()));
    effect(() => this.sendStyle());
    effect(() => {
      this.cameras.origin();
      this.link.setSurfaces(this.tints.drawn());
      untracked(() => this.cameras.changed());
    });
    // Close up the grid of the whole surface is coarser than the screen: a finer one of what Plan shows, once it rests.
    effect((onCleanup) => {
      const drawn = this.store.drawnSurface() ? this.tints.drawn() : [];
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
      const query = new URLSearchParams(
        Object.entries({ ...window, cell: 1.5 * unitsPerPixel }).map(([name, value]): [string, string] => [
          name,
          String(value),
        ]),
      );
      const url = `${surface.url.replace(/grid$/, 'window')}?${query.toString()}`;
      const timer = setTimeout(() => this.link.setDetail({ ...surface, url }), 200);
      onCleanup(() => clearTimeout(timer));
    });
    effect(() => {
      const tried = this.figures.tried();
      const layer = (positions: Float32Array | undefined, opacity: number): LineLayer | undefined =>
        positions && { positions, colour: '#7a1f5c', opacity, isDepthTested: false };
      this.lines$.next({ key: 'contour-preview-between', layer: layer(tried?.between, 0.6) });
      this.lines$.next({ key: 'contour-preview-index', layer: layer(tried?.index, 1) });
    });
    effect(() => {
      const sides = this.surfaceEdits.sides();
      const layer = (k: 0 | 1 | 2, colour: string, opacity: number): LineLayer | undefined =>
        sides && { positions: sides[k], colour, opacity, isDepthTested: false };
      this.lines$.next({ key: 'sides-inside', layer: layer(0, '#1f2a30', 0.55) });
      this.lines$.next({ key: 'sides-held', layer: layer(1, '#0B5FA5', 1) });
      this.lines$.next({ key: 'sides-rim', layer: layer(2, '#B3261E', 1) });
    });
    effect(() => {
      const wanted = this.store.shownLines().map(({ id }) => id);
      this.cameras.origin();
      untracked(() => void this.showLines(wanted));
    });
    effect(() => {
      const wanted = this.store.shownContours().map((set) => set.id);
      untracked(() => void this.showContours(wanted));
    });
    // What values are spread over is asked once the picture of the new mode has come.
    effect((onCleanup) => {
      const mode = this.look.mode();
      this.store.clouds();
      if (!untracked(() => this.look.isRamped())) return;
      const timer = setTimeout(() => void this.readSpread(mode), 700);
      onCleanup(() => clearTimeout(timer));
    });
  }

  async readSpread(mode = this.look.mode()): Promise<void> {
    const spread = await this.link.ask('spread', { view: 'plan' });
    if (spread?.mode === mode) this.look.spread.set(spread);
  }

  private async loadNodes(jobId: string, clouds: readonly { id: number; revision: number }[]): Promise<void> {
    const fresh = new Map<number, { revision: number; nodes: readonly CloudNode[] }>();
    for (const { id, revision } of clouds) {
      const known = this.nodes.get(id);
      fresh.set(
        id,
        known?.revision === revision
          ? known
          : {
              revision,
              ...(await firstValueFrom(this.http.get<{ nodes: CloudNode[] }>(`/api/jobs/${jobId}/clouds/${id}/nodes`))),
            },
      );
    }
    this.nodes = fresh;
    const ids = clouds.map(({ id }) => id).join();
    if (ids !== this.framedCloudIds && clouds.length > 0) {
      const isFirst = this.framedCloudIds === '';
      this.framedCloudIds = ids;
      if (isFirst) {
        const bounds = this.cameras.jobBounds();
        const round = (value: number): number => Math.round(value / 10) * 10;
        this.cameras.origin.set([
          round((bounds.min[0] + bounds.max[0]) / 2),
          round((bounds.min[1] + bounds.max[1]) / 2),
          round(this.store.clouds()[0]!.source.elevationRange[0]),
        ]);
      }
      this.sendClouds();
      this.cameras.frameAll();
      for (const id of this.shownContourIds) this.dropContours(id);
      void this.showContours(this.store.shownContours().map((set) => set.id));
    } else this.sendClouds();
  }

  private sendClouds(): void {
    const clouds = this.store.shownClouds().flatMap((cloud) => {
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
      const bytes = await firstValueFrom(
        this.http.get(`/api/jobs/${jobId}/contours/${id}/lines`, { responseType: 'arraybuffer' }),
      ).catch(() => undefined);
      if (!bytes || !this.shownContourIds.has(id)) continue;
      const set = unpackContours(new Uint8Array(bytes));
      const metre = 1 / metresPer(this.store.unit());
      const { index, between, marks } = contourSegments(set, this.cameras.origin(), metre);
      this.figures.show(id, set, this.store.contours().find((contours) => contours.id === id)?.parameters ?? {});
      this.lines$.next({
        key: `contours-${id}-between`,
        layer: { positions: between, colour: '#5A3A22', opacity: 0.55, isDepthTested: true },
      });
      this.lines$.next({
        key: `contours-${id}-index`,
        layer: { positions: index, colour: '#3B2212', opacity: 1, isDepthTested: true },
      });
      this.lines$.next({
        key: `contours-${id}-marks`,
        layer: { positions: marks, colour: '#5A3A22', opacity: 0.8, isDepthTested: true },
      });
    }
  }

  private async showLines(wanted: readonly number[]): Promise<void> {
    const jobId = this.store.jobId();
    const origin = this.cameras.origin();
    // What is drawn is about the scene's origin: another origin is another layer.
    const keyOf = (id: number): string => `lines-${id}-${origin.join('/')}`;
    const keys = new Set(wanted.map(keyOf));
    for (const key of this.shownLineIds)
      if (!keys.has(key)) {
        this.shownLineIds.delete(key);
        this.lines$.next({ key, layer: undefined });
      }
    for (const id of wanted) {
      const key = keyOf(id);
      if (this.shownLineIds.has(key)) continue;
      this.shownLineIds.add(key);
      const file = await firstValueFrom(this.http.get<LineFile>(`/api/jobs/${jobId}/lines/${id}`)).catch(
        () => undefined,
      );
      if (!file || !this.shownLineIds.has(key)) continue;
      this.lines$.next({
        key,
        layer: { positions: lineSegments(file, origin), colour: '#0B5FA5', opacity: 1, isDepthTested: false },
      });
    }
  }

  private dropContours(id: number): void {
    this.shownContourIds.delete(id);
    this.figures.drop(id);
    for (const part of ['between', 'index', 'marks'])
      this.lines$.next({ key: `contours-${id}-${part}`, layer: undefined });
  }
}
