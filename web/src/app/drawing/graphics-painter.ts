import type { CachedNode } from './point-cache';
import type { PointPainter, PointPicture } from './point-painter';
import type { Frame, Matrix } from './frame';
import type { ViewId } from './view-id';

const VERTEX = `#version 300 es
precision highp float;
precision highp int;
layout(location = 0) in float x;
layout(location = 1) in float y;
layout(location = 2) in float z;
layout(location = 3) in vec4 colour;
uniform mat4 matrix;
uniform float size;
uniform uint slot;
flat out vec4 shown;
flat out uint point;
void main() {
  // A colour of nothing hides the point: it is put outside the view.
  gl_Position = colour.a == 0.0 ? vec4(2.0, 2.0, 2.0, 1.0) : matrix * vec4(x, y, z, 1.0);
  gl_PointSize = size;
  shown = colour;
  point = (slot << 16) | uint(gl_VertexID);
}`;

const FRAGMENT = `#version 300 es
precision highp float;
precision highp int;
flat in vec4 shown;
flat in uint point;
layout(location = 0) out vec4 colour;
layout(location = 1) out float depth;
layout(location = 2) out uint which;
void main() {
  colour = shown;
  depth = gl_FragCoord.z * 2.0 - 1.0;
  which = point;
}`;

/** Renderers that are no graphics card: software that stands in for one. */
const SOFTWARE = /swiftshader|llvmpipe|softpipe|software|basic render|virtualbox|svga3d/i;
const NOTHING_DEPTH = 2;

interface Uploaded {
  readonly node: CachedNode;
  readonly array: WebGLVertexArrayObject;
  readonly positions: readonly WebGLBuffer[];
  readonly colours: WebGLBuffer;
  colourings: number;
}

interface Target {
  readonly width: number;
  readonly height: number;
  readonly framebuffer: WebGLFramebuffer;
  readonly textures: readonly WebGLTexture[];
  readonly depth: WebGLRenderbuffer;
}

/** Draws with WebGL 2 on a canvas of the worker's own, and reads the picture back: points stay on the card meanwhile. */
export class GraphicsPainter implements PointPainter {
  readonly name = 'graphics';
  private readonly gl: WebGL2RenderingContext;
  private readonly program: WebGLProgram;
  private readonly places: Readonly<Record<'matrix' | 'size' | 'slot', WebGLUniformLocation | null>>;
  private readonly uploaded = new Map<number, Uploaded>();
  private readonly targets = new Map<ViewId, Target>();

  /** The name of what WebGL draws with here; undefined where there is none that will do. */
  static renderer(): { readonly name: string; readonly isSoftware: boolean } | undefined {
    const gl = contextOf(new OffscreenCanvas(1, 1));
    if (!gl) return undefined;
    const facts = gl.getExtension('WEBGL_debug_renderer_info');
    const name = String(gl.getParameter(facts ? facts.UNMASKED_RENDERER_WEBGL : gl.RENDERER));
    gl.getExtension('WEBGL_lose_context')?.loseContext();
    return { name, isSoftware: SOFTWARE.test(name) };
  }

  /** @throws Error where WebGL 2 with float targets is not to be had */
  constructor(canvas: OffscreenCanvas = new OffscreenCanvas(1, 1)) {
    const gl = contextOf(canvas);
    if (!gl) throw new Error('WebGL 2 with float targets is not available here.');
    this.gl = gl;
    this.program = programOf(gl);
    const place = (name: string) => gl.getUniformLocation(this.program, name);
    this.places = { matrix: place('matrix'), size: place('size'), slot: place('slot') };
  }

  get isLost(): boolean {
    return this.gl.isContextLost();
  }

  begin(view: ViewId, width: number, height: number): PointPicture {
    const { gl } = this;
    let target = this.targets.get(view);
    if (target?.width !== width || target.height !== height) {
      if (target) dropTarget(gl, target);
      this.targets.set(view, (target = targetOf(gl, width, height)));
    }
    this.use(target);
    gl.clearBufferfv(gl.COLOR, 0, [0, 0, 0, 0]);
    gl.clearBufferfv(gl.COLOR, 1, [NOTHING_DEPTH, 0, 0, 0]);
    gl.clearBufferuiv(gl.COLOR, 2, [0, 0, 0, 0]);
    gl.clearBufferfv(gl.DEPTH, 0, [1]);
    return {
      points: (matrix, node, size) => this.points(target, matrix, node, size),
      finish: () => this.readBack(target),
    };
  }

  private use({ framebuffer, width, height }: Target): void {
    const { gl } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
    gl.viewport(0, 0, width, height);
    gl.enable(gl.DEPTH_TEST);
    gl.depthFunc(gl.LEQUAL);
    gl.disable(gl.BLEND);
    gl.useProgram(this.program);
  }

  private points(target: Target, matrix: Matrix, node: CachedNode, size: number): void {
    const { gl } = this;
    this.use(target);
    const held = this.upload(node);
    gl.uniformMatrix4fv(this.places.matrix, false, Float32Array.from(matrix));
    gl.uniform1f(this.places.size, size);
    gl.uniform1ui(this.places.slot, node.slot);
    gl.bindVertexArray(held.array);
    gl.drawArrays(gl.POINTS, 0, node.points.count);
  }

  private readBack(target: Target): Frame {
    const { gl } = this;
    const { width, height } = target;
    this.use(target);
    const colour = new Uint32Array(width * height);
    const depth = new Float32Array(width * height);
    const point = new Uint32Array(width * height);
    gl.readBuffer(gl.COLOR_ATTACHMENT0);
    gl.readPixels(0, 0, width, height, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(colour.buffer));
    gl.readBuffer(gl.COLOR_ATTACHMENT0 + 1);
    gl.readPixels(0, 0, width, height, gl.RED, gl.FLOAT, depth);
    gl.readBuffer(gl.COLOR_ATTACHMENT0 + 2);
    gl.readPixels(0, 0, width, height, gl.RED_INTEGER, gl.UNSIGNED_INT, point);
    return { width, height, depth, colour, point };
  }

  forget(slot: number): void {
    const held = this.uploaded.get(slot);
    if (!held) return;
    this.uploaded.delete(slot);
    this.gl.deleteVertexArray(held.array);
    for (const buffer of [...held.positions, held.colours]) this.gl.deleteBuffer(buffer);
  }

  /** Positions go up once, colours whenever they were made anew. */
  private upload(node: CachedNode): Uploaded {
    const { gl } = this;
    let held = this.uploaded.get(node.slot);
    if (held && held.node !== node) {
      this.forget(node.slot);
      held = undefined;
    }
    if (!held) {
      const array = gl.createVertexArray();
      gl.bindVertexArray(array);
      const positions = [node.points.x, node.points.y, node.points.z].map((values, place) => {
        const buffer = gl.createBuffer();
        gl.bindBuffer(gl.ARRAY_BUFFER, buffer);
        gl.bufferData(gl.ARRAY_BUFFER, values, gl.STATIC_DRAW);
        gl.enableVertexAttribArray(place);
        gl.vertexAttribPointer(place, 1, gl.FLOAT, false, 0, 0);
        return buffer;
      });
      const colours = gl.createBuffer();
      gl.bindBuffer(gl.ARRAY_BUFFER, colours);
      gl.enableVertexAttribArray(3);
      gl.vertexAttribPointer(3, 4, gl.UNSIGNED_BYTE, true, 0, 0);
      held = { node, array, positions, colours, colourings: -1 };
      this.uploaded.set(node.slot, held);
    }
    if (held.colourings !== node.colourings) {
      gl.bindBuffer(gl.ARRAY_BUFFER, held.colours);
      gl.bufferData(gl.ARRAY_BUFFER, node.points.colour, gl.DYNAMIC_DRAW);
      held.colourings = node.colourings;
    }
    return held;
  }
}

function contextOf(canvas: OffscreenCanvas): WebGL2RenderingContext | undefined {
  const gl = canvas.getContext('webgl2', { antialias: false, alpha: true });
  return gl?.getExtension('EXT_color_buffer_float') ? gl : undefined;
}

function programOf(gl: WebGL2RenderingContext): WebGLProgram {
  const program = gl.createProgram();
  for (const [kind, source] of [
    [gl.VERTEX_SHADER, VERTEX],
    [gl.FRAGMENT_SHADER, FRAGMENT],
  ] as const) {
    const shader = gl.createShader(kind)!;
    gl.shaderSource(shader, source);
    gl.compileShader(shader);
    gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  if (!gl.getProgramParameter(program, gl.LINK_STATUS))
    throw new Error(`The shaders cannot be used: ${gl.getProgramInfoLog(program) ?? 'no reason given'}.`);
  return program;
}

function targetOf(gl: WebGL2RenderingContext, width: number, height: number): Target {
  const framebuffer = gl.createFramebuffer();
  gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
  const textures = [gl.RGBA8, gl.R32F, gl.R32UI].map((format, i) => {
    const texture = gl.createTexture();
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.texStorage2D(gl.TEXTURE_2D, 1, format, width, height);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0 + i, gl.TEXTURE_2D, texture, 0);
    return texture;
  });
  const depth = gl.createRenderbuffer();
  gl.bindRenderbuffer(gl.RENDERBUFFER, depth);
  gl.renderbufferStorage(gl.RENDERBUFFER, gl.DEPTH_COMPONENT24, width, height);
  gl.framebufferRenderbuffer(gl.FRAMEBUFFER, gl.DEPTH_ATTACHMENT, gl.RENDERBUFFER, depth);
  gl.drawBuffers([gl.COLOR_ATTACHMENT0, gl.COLOR_ATTACHMENT0 + 1, gl.COLOR_ATTACHMENT0 + 2]);
  return { width, height, framebuffer, textures, depth };
}

function dropTarget(gl: WebGL2RenderingContext, { framebuffer, textures, depth }: Target): void {
  gl.deleteFramebuffer(framebuffer);
  for (const texture of textures) gl.deleteTexture(texture);
  gl.deleteRenderbuffer(depth);
}
