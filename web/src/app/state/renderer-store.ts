import { computed, Injectable, signal } from '@angular/core';
import type { PainterChoice, PainterName } from '../drawing/painter-name';
import { detectRenderer, rememberedRenderer, type Renderer } from '../drawing/renderer-detection';

const PAINTER_KEY = 'pampero-painter';

function rememberedPainter(): PainterChoice {
  const kept = localStorage.getItem(PAINTER_KEY);
  return kept === 'processor' || kept === 'graphics' ? kept : 'automatic';
}

/** Who draws the points; kept in the browser, since it depends on the machine. */
@Injectable()
export class RendererStore {
  readonly choice = signal<PainterChoice>(rememberedPainter());
  /** Who draws them now. */
  readonly painter = signal<PainterName>('processor');
  /** What WebGL draws with here: null where there is none, undefined until it is known. */
  readonly renderer = signal<Renderer | null | undefined>(rememberedRenderer());
  readonly wanted = computed<PainterName>(() => {
    const choice = this.choice();
    if (choice !== 'automatic') return choice;
    const renderer = this.renderer();
    return renderer && !renderer.isSoftware ? 'graphics' : 'processor';
  });
  private isFinding = false;

  /** Finds out what WebGL is here, where that was never asked before. */
  find(): void {
    if (this.renderer() !== undefined || this.isFinding) return;
    this.isFinding = true;
    void detectRenderer().then((renderer) => this.renderer.set(renderer ?? null));
  }

  choose(choice: PainterChoice): void {
    localStorage.setItem(PAINTER_KEY, choice);
    this.choice.set(choice);
  }
}
