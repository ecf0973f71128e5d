import { GraphicsPainter } from './graphics-painter';

// Asked aside, once: on a machine without a graphics card the answer alone takes seconds.
postMessage(typeof OffscreenCanvas === 'undefined' ? undefined : GraphicsPainter.renderer());
