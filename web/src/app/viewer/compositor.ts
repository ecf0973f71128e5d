import {
  BufferAttribute,
  BufferGeometry,
  Camera,
  DataTexture,
  FloatType,
  GLSL3,
  LineBasicMaterial,
  LineSegments,
  Matrix4,
  Mesh,
  NearestFilter,
  PlaneGeometry,
  RawShaderMaterial,
  RedFormat,
  RGBAFormat,
  Scene,
  UnsignedByteType,
  WebGLRenderer,
} from 'three';
import type { LineLayer, PictureSink, ViewPlace } from './picture-sink';
import type { ViewId } from '../drawing/view-id';

interface ViewPicture {
  readonly scene: Scene;
  readonly material: RawShaderMaterial;
  readonly mesh: Mesh;
  colour: DataTexture | undefined;
  depth: DataTexture | undefined;
  matrix: Float64Array;
}

const VERTEX = `precision highp float;
in vec3 position;
in vec2 uv;
out vec2 at;
void main() { at = uv; gl_Position = vec4(position.xy * 2.0, 0.0, 1.0); }`;

const FRAGMENT = `precision highp float;
uniform sampler2D colour;
uniform sampler2D depth;
in vec2 at;
out vec4 shown;
void main() {
  vec4 c = texture(colour, at);
  if (c.a == 0.0) discard;
  shown = vec4(c.rgb, 1.0);
  // A little back, so that lines on the ground are not lost in the points of the ground.
  gl_FragDepth = clamp(texture(depth, at).r * 0.5 + 0.5 + 0.0004, 0.0, 1.0);
}`;

/**
 * Puts the worker's pictures and the scene's lines together with three.js: one WebGL context for all views. The picture
 * brings its own depth, so lines go behind points and before them as they should.
 */
export class Compositor implements PictureSink {
  readonly isFlat = false;
  private readonly renderer: WebGLRenderer;
  private readonly views = new Map<ViewId, ViewPicture>();
  private readonly lines = new Map<string, { object: LineSegments; views: readonly ViewId[] }>();
  private readonly lineScene = new Scene();
  private readonly camera = new Camera();

  constructor(canvas: HTMLCanvasElement) {
    this.renderer = new WebGLRenderer({
      canvas,
      antialias: true,
      alpha: true,
      premultipliedAlpha: true,
      // A picture of a view may be wanted for the report.
      preserveDrawingBuffer: true,
    });
    this.renderer.autoClear = false;
    this.renderer.setScissorTest(true);
    this.camera.matrixAutoUpdate = false;
    this.lineScene.matrixWorldAutoUpdate = false;
  }

  resize(width: number, height: number, pixelRatio: number): void {
    this.renderer.setPixelRatio(pixelRatio);
    this.renderer.setSize(width, height, false);
  }

  setPicture(
    view: ViewId,
    width: number,
    height: number,
    rgba: Uint8ClampedArray<ArrayBuffer>,
    depth: Float32Array<ArrayBuffer> | undefined,
    matrix: Float64Array,
  ): void {
    if (!depth) return; // composed for the flat canvas: a picture of its own is being drawn
    const picture = this.view(view);
    if (picture.colour?.image.width !== width || picture.colour.image.height !== height) {
      picture.colour?.dispose();
      picture.depth?.dispose();
      picture.colour = new DataTexture(new Uint8Array(rgba.buffer), width, height, RGBAFormat, UnsignedByteType);
      picture.depth = new DataTexture(depth, width, height, RedFormat, FloatType);
      for (const texture of [picture.colour, picture.depth]) texture.minFilter = texture.magFilter = NearestFilter;
      picture.material.uniforms['colour']!.value = picture.colour;
      picture.material.uniforms['depth']!.value = picture.depth;
    } else {
      picture.colour.image.data = new Uint8Array(rgba.buffer);
      picture.depth!.image.data = depth as never;
    }
    picture.colour.needsUpdate = true;
    picture.depth!.needsUpdate = true;
    picture.matrix = matrix;
  }

  setLines(key: string, layer: LineLayer | undefined, views: readonly ViewId[] = ['plan', 'model']): void {
    const old = this.lines.get(key);
    if (old) {
      old.object.geometry.dispose();
      (old.object.material as LineBasicMaterial).dispose();
      this.lineScene.remove(old.object);
      this.lines.delete(key);
    }
    if (!layer) return;
    const geometry = new BufferGeometry();
    geometry.setAttribute('position', new BufferAttribute(layer.positions, 3));
    const material = new LineBasicMaterial({
      color: layer.colour,
      transparent: layer.opacity < 1,
      opacity: layer.opacity,
      depthTest: layer.isDepthTested,
      depthWrite: false,
    });
    const object = new LineSegments(geometry, material);
    object.frustumCulled = false;
    this.lineScene.add(object);
    this.lines.set(key, { object, views });
  }

  render(view: ViewId, place: ViewPlace, canvasHeight: number, background: string): void {
    const picture = this.view(view);
    const bottom = canvasHeight - place.top - place.height;
    this.renderer.setViewport(place.left, bottom, place.width, place.height);
    this.renderer.setScissor(place.left, bottom, place.width, place.height);
    this.renderer.setClearColor(background, 1);
    this.renderer.clear();
    if (!picture.colour) return;
    this.renderer.render(picture.scene, this.camera);
    for (const { object, views } of this.lines.values()) object.visible = views.includes(view);
    // The view's own matrix stands in for a projection; the lines' coordinates are already the scene's.
    this.camera.projectionMatrix = new Matrix4().fromArray(Array.from(picture.matrix));
    this.camera.matrixWorldInverse.identity();
    this.renderer.render(this.lineScene, this.camera);
  }

  dispose(): void {
    for (const key of [...this.lines.keys()]) this.setLines(key, undefined);
    for (const { colour, depth, material, mesh } of this.views.values()) {
      colour?.dispose();
      depth?.dispose();
      material.dispose();
      mesh.geometry.dispose();
    }
    this.renderer.dispose();
  }

  private view(id: ViewId): ViewPicture {
    let picture = this.views.get(id);
    if (!picture) {
      const material = new RawShaderMaterial({
        glslVersion: GLSL3,
        vertexShader: VERTEX,
        fragmentShader: FRAGMENT,
        uniforms: { colour: { value: null }, depth: { value: null } },
      });
      const mesh = new Mesh(new PlaneGeometry(1, 1), material);
      mesh.frustumCulled = false;
      const scene = new Scene();
      scene.add(mesh);
      picture = { scene, material, mesh, colour: undefined, depth: undefined, matrix: new Float64Array(16) };
      this.views.set(id, picture);
    }
    return picture;
  }
}
