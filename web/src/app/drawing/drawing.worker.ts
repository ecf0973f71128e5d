/// <reference lib="webworker" />
import { DrawingEngine } from './drawing-engine';
import type { ViewerAnswer, ViewerRequest } from './drawing-protocol';

const engine = new DrawingEngine((answer: ViewerAnswer, transfer: Transferable[]) => postMessage(answer, transfer));
addEventListener('message', ({ data }: MessageEvent<ViewerRequest>) => engine.receive(data));
