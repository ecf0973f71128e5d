import type { ClientViewFacts } from '@pampero/contract';
import type { HeightField, ViewExtras, ViewLand } from '@pampero/core/client-view';
import {
  AmbientLight,
  BufferAttribute,
  BufferGeometry,
  CanvasTexture,
  DirectionalLight,
  DoubleSide,
  Group,
  Line,
  LineBasicMaterial,
  type LineSegments,
  Mesh,
  MeshLambertMaterial,
  PerspectiveCamera,
  Points,
  PointsMaterial,
  Scene,
  SRGBColorSpace,
  Vector3,
  WebGLRenderer,
} from 'three';
import { drawsOnProcessor, landGeometry } from './land-geometry';
import { linesByKind, pointsOf } from './land-things';
import { MapControls } from 'three/addons/controls/MapControls.js';

export type Place = readonly [x: number, y: number, z: number];

/** Triangles of the land: first of all, when it is quick, and when it is still. */
const [COARSE, MEDIUM, FINE] = [25_000, 120_000, 1_200_000];
/** A picture takes so long at most before a coarser land is turned. */
const SLOW_MS = 45;
const STILL_MS = 250;

/** The land with all that lies on it, drawn when something has changed. */
export class LandScene {
  readonly lines = new Map<number, LineSegments>();
  points: Points | undefined;
  private readonly renderer: WebGLRenderer;
  private readonly scene = new Scene();
  private readonly camera = new PerspectiveCamera(45, 1, 1, 1e6);
  private readonly controls: MapControls;
  /** Everything in the land's own heights; stretched together. */
  private readonly world = new Group();
  private readonly drawn = new Group();
  private readonly sun = new DirectionalLight(0xffffff, 2.4);
  private readonly meshes = new Map<number, Mesh<BufferGeometry, MeshLambertMaterial>>();
  private readonly tinted = new MeshLambertMaterial({
    vertexColors: true,
    side: DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
  });
  private readonly draped = new MeshLambertMaterial({
    side: DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
  });
  private isDraped = false;
  private isAsked = false;
  private movedAt = 0;
  private took = Infinity;
  private readonly extent: number;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly view: ViewLand,
    private readonly facts: ClientViewFacts,
    private readonly land: HeightField,
    private readonly onDrawn: () => void,
  ) {
    const isSoft = drawsOnProcessor();
    this.renderer = new WebGLRenderer({ canvas, antialias: !isSoft, alpha: true });
    this.renderer.setPixelRatio(isSoft ? 1 : Math.min(2, devicePixelRatio));
    const { columns, rows, cell } = view.frame;
    this.extent = Math.max(columns, rows) * cell;
    this.camera.up.set(0, 0, 1);
    this.scene.add(this.world, new AmbientLight(0xffffff, 1.1), this.sun);
    this.world.add(this.drawn);
    this.controls = new MapControls(this.camera, canvas);
    this.controls.enableDamping = false;
    this.controls.maxPolarAngle = Math.PI / 2.05;
    this.controls.minDistance = this.extent / 500;
    this.controls.maxDistance = this.extent * 4;
    this.controls.zoomToCursor = true;
    this.controls.addEventListener('change', () => this.moved());
    this.light(315);
    new ResizeObserver(() => this.fit()).observe(canvas);
    this.fit();
    this.home();
  }

  /** Lays lines and points on the land. */
  lay({ lines, points }: ViewExtras): void {
    for (const [id, drawn] of linesByKind(lines, this.facts.kinds, this.land)) {
      this.lines.set(id, drawn);
      this.world.add(drawn);
    }
    this.points = pointsOf(points);
    if (this.points) this.world.add(this.points);
    this.ask();
  }

  get side(): number {
    return Math.min(this.renderer.capabilities.maxTextureSize, this.took > SLOW_MS ? 2048 : 4096);
  }

  /** Looks at the whole from the south. */
  home(): void {
    const { columns, rows, cell } = this.view.frame;
    const [x, y] = [(columns * cell) / 2, (rows * cell) / 2];
    const [low, high] = this.land.range();
    // On a narrow screen the width decides how far away one stands.
    const away = this.extent * (this.camera.aspect < 1 ? 1.1 / this.camera.aspect : 1);
    this.controls.target.set(x, y, ((low + high) / 2) * this.world.scale.z);
    this.camera.position.set(x, y - 0.75 * away, this.controls.target.z + 0.65 * away);
    this.controls.update();
    this.moved();
  }

  /** Looks at a place from near. */
  goTo([x, y, z]: Place): void {
    const to = new Vector3(x, y, z * this.world.scale.z);
    const back = this.camera.position
      .clone()
      .sub(this.controls.target)
      .setLength(this.extent / 7);
    this.controls.target.copy(to);
    this.camera.position.copy(to).add(back);
    this.controls.update();
    this.moved();
  }

  /** Turns and tilts by degrees, comes nearer by a factor. */
  turn(azimuth: number, tilt: number, nearer = 1): void {
    const arm = this.camera.position.clone().sub(this.controls.target);
    arm.applyAxisAngle(this.camera.up, (azimuth * Math.PI) / 180);
    const flat = Math.hypot(arm.x, arm.y);
    const angle = Math.max(0.03, Math.min(1.54, Math.atan2(arm.z, flat) + (tilt * Math.PI) / 180));
    const length = Math.max(this.controls.minDistance, Math.min(this.controls.maxDistance, arm.length() / nearer));
    const [c, s] = [arm.x / (flat || 1), arm.y / (flat || 1)];
    this.camera.position
      .copy(this.controls.target)
      .add(new Vector3(c * Math.cos(angle) * length, s * Math.cos(angle) * length, Math.sin(angle) * length));
    this.controls.update();
    this.moved();
  }

  stretch(by: number): void {
    const target = this.controls.target.z / this.world.scale.z;
    this.world.scale.z = by;
    this.controls.target.z = target * by;
    this.controls.update();
    this.moved();
  }

  /** The light comes from there, degrees from north. */
  light(azimuth: number): void {
    const a = (azimuth * Math.PI) / 180;
    this.sun.position.set(Math.sin(a), Math.cos(a), 0.9);
    this.ask();
  }

  drape(picture: ImageBitmap): void {
    const texture = new CanvasTexture(picture);
    texture.colorSpace = SRGBColorSpace;
    texture.flipY = false;
    texture.anisotropy = 4;
    this.draped.map = texture;
    this.draped.needsUpdate = true;
  }

  showPicture(isShown: boolean): void {
    this.isDraped = isShown && this.draped.map !== null;
    for (const mesh of this.meshes.values()) mesh.material = this.isDraped ? this.draped : this.tinted;
    this.ask();
  }

  /** Where the land is that is seen at a place of the canvas. */
  pick(clientX: number, clientY: number): Place | undefined {
    this.camera.updateMatrixWorld();
    const box = this.canvas.getBoundingClientRect();
    const at = new Vector3((2 * (clientX - box.left)) / box.width - 1, 1 - (2 * (clientY - box.top)) / box.height, 0.5);
    const ray = at.unproject(this.camera).sub(this.camera.position);
    const { z: by } = this.world.scale;
    const { x, y, z } = this.camera.position;
    return this.land.hit([x, y, z / by], [ray.x, ray.y, ray.z / by]);
  }

  /** Where a place is on the canvas; undefined behind the eye or beside the picture. */
  seenAt([x, y, z]: Place): readonly [number, number] | undefined {
    this.camera.updateMatrixWorld();
    const at = new Vector3(x, y, z * this.world.scale.z).project(this.camera);
    if (at.z > 1 || Math.abs(at.x) > 1.1 || Math.abs(at.y) > 1.1) return undefined;
    return [((at.x + 1) / 2) * this.canvas.clientWidth, ((1 - at.y) / 2) * this.canvas.clientHeight];
  }

  /** Draws what is being measured over everything. */
  measure(places: readonly Place[], isClosed: boolean): void {
    this.drawn.clear();
    const all = isClosed && places.length > 2 ? [...places, places[0]!] : places;
    const corners: number[] = [];
    for (let k = 0; k < all.length; k++) {
      const [a, b] = [all[k]!, all[k + 1] ?? all[k]!];
      // Between its corners the line follows the land.
      const pieces =
        k + 1 < all.length
          ? Math.min(200, Math.max(1, Math.ceil(Math.hypot(b[0] - a[0], b[1] - a[1]) / (2 * this.view.frame.cell))))
          : 1;
      for (let p = 0; p < pieces; p++) {
        const [x, y] = [a[0] + ((b[0] - a[0]) * p) / pieces, a[1] + ((b[1] - a[1]) * p) / pieces];
        const z = p === 0 ? a[2] : this.land.at(x, y);
        if (!Number.isNaN(z)) corners.push(x, y, z);
      }
    }
    const red = { color: 0xc8452f, depthTest: false };
    const dots = new BufferGeometry().setAttribute(
      'position',
      new BufferAttribute(Float32Array.from(places.flat()), 3),
    );
    this.drawn.add(new Points(dots, new PointsMaterial({ ...red, size: 9, sizeAttenuation: false })));
    if (corners.length >= 6) {
      const path = new BufferGeometry().setAttribute('position', new BufferAttribute(Float32Array.from(corners), 3));
      this.drawn.add(new Line(path, new LineBasicMaterial({ ...red, linewidth: 2 })));
    }
    for (const each of this.drawn.children) each.renderOrder = 9;
    this.ask();
  }

  ask(): void {
    if (this.isAsked) return;
    this.isAsked = true;
    requestAnimationFrame(() => {
      this.isAsked = false;
      this.draw();
    });
  }

  private moved(): void {
    this.movedAt = performance.now();
    this.ask();
    setTimeout(() => {
      if (performance.now() - this.movedAt >= STILL_MS) this.ask();
    }, STILL_MS + 10);
  }

  private draw(): void {
    const isMoving = performance.now() - this.movedAt < STILL_MS;
    const isFirst = this.took === Infinity;
    const wanted =
      isFirst || (isMoving && this.took > SLOW_MS) ? COARSE : isMoving || this.took > SLOW_MS ? MEDIUM : FINE;
    const mesh = this.meshAt(wanted);
    for (const each of this.meshes.values()) each.visible = each === mesh;
    const begun = performance.now();
    this.renderer.render(this.scene, this.camera);
    if (isFirst || wanted === COARSE) {
      // Asking for a pixel waits until the picture is there.
      const gl = this.renderer.getContext();
      gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
      const now = performance.now() - begun;
      this.took = isFirst ? now : 0.5 * this.took + 0.5 * now;
      if (isFirst) this.moved();
    }
    this.onDrawn();
  }

  private fit(): void {
    const { clientWidth: width, clientHeight: height } = this.canvas;
    if (width === 0 || height === 0) return;
    this.renderer.setSize(width, height, false);
    this.camera.aspect = width / height;
    this.camera.near = this.extent / 2000;
    this.camera.far = this.extent * 12;
    this.camera.updateProjectionMatrix();
    this.moved();
  }

  private meshAt(triangles: number): Mesh {
    let mesh = this.meshes.get(triangles);
    if (!mesh) {
      mesh = new Mesh(
        landGeometry(this.view, this.facts.ramp, this.land.range(), triangles),
        this.isDraped ? this.draped : this.tinted,
      );
      this.meshes.set(triangles, mesh);
      this.world.add(mesh);
    }
    return mesh;
  }
}
