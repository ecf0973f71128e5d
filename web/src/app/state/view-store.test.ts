// @vitest-environment jsdom
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test } from 'vitest';
import { cloud, storesOver, surface, turn, workbench, type PretendServer } from '../stores.fixture';
import { ControlStore } from './control-store';
import { JobStore } from './job-store';
import { layerKey, LayerStore } from './layer-store';
import { RendererStore } from './renderer-store';
import { ViewStore } from './view-store';

let server: PretendServer;
let said: string[];
let views: ViewStore;
let store: JobStore;
let layers: LayerStore;
const looks = { points: [{ number: 'C1' }], radius: 1 };
beforeEach(() => {
  localStorage.clear();
  ({ server, said } = storesOver(
    (id) => (id === 'lookAtControl' ? looks : undefined),
    [JobStore, LayerStore, ViewStore, ControlStore, RendererStore],
  ));
  store = TestBed.inject(JobStore);
  layers = TestBed.inject(LayerStore);
  views = TestBed.inject(ViewStore);
});

describe('a tool that is taken in hand', () => {
  test('above and below a line want a section first, and say so', () => {
    for (const tool of ['above', 'below'] as const) views.takeTool(tool);
    expect([views.tool(), said]).toEqual([
      'look',
      ['Draw a section first. The line is drawn in it.', 'Draw a section first. The line is drawn in it.'],
    ]);
    views.section.set({ a: [0, 0], b: [1, 1] });
    views.takeTool('above');
    expect(views.tool()).toBe('above');
  });

  test('the section is drawn in Plan, and brings it', () => {
    views.pane.set('model');
    views.takeTool('section');
    expect([views.pane(), views.tool()]).toEqual(['plan', 'section']);
    views.pane.set('both');
    views.takeTool('section');
    expect(views.pane()).toBe('both');
  });

  test('triangles want a surface that is shown, and bring it and Plan', () => {
    views.takeTool('triangles');
    expect([views.tool(), said.at(-1)]).toEqual(['look', 'There is no surface to edit. Build or show one first.']);
    store.workbench.set(workbench({ clouds: [cloud({ id: 1 })], products: [surface(1)] }));
    views.pane.set('model');
    views.takeTool('triangles');
    expect([views.tool(), views.pane(), layers.showing()]).toEqual(['triangles', 'plan', 'surface']);
  });

  test('what works on points brings them back from behind a surface; looking leaves all as it is', () => {
    store.workbench.set(workbench({ clouds: [cloud({ id: 1 })], products: [surface(1)] }));
    layers.showing.set('surface');
    views.takeTool('look');
    expect(layers.showing()).toBe('surface');
    views.takeTool('outline');
    expect(layers.showing()).toBe('points');
  });

  test('a section is walked by its depth until a step is set', () => {
    expect(views.sectionStep()).toBe(2);
    views.sectionDepth.set(5);
    expect(views.sectionStep()).toBe(5);
    views.ownSectionStep.set(0.5);
    expect(views.sectionStep()).toBe(0.5);
  });
});

describe('control against the cloud', () => {
  test('is looked at once a cloud and points are there, again when either changes, and not for the rest', async () => {
    const control = TestBed.inject(ControlStore);
    await turn();
    expect(server.made('lookAtControl')).toHaveLength(0);
    store.workbench.set(workbench({ clouds: [cloud({ id: 1 })], controlCount: 4 }));
    TestBed.tick();
    await turn();
    expect([server.made('lookAtControl').length, control.look()]).toEqual([1, looks]);
    store.workbench.set(workbench({ clouds: [cloud({ id: 1, name: 'renamed' })], controlCount: 4 }));
    TestBed.tick();
    await turn();
    expect(server.made('lookAtControl')).toHaveLength(1);
    store.workbench.set(workbench({ clouds: [cloud({ id: 1, revision: 2 })], controlCount: 4 }));
    TestBed.tick();
    await turn();
    expect(server.made('lookAtControl')).toHaveLength(2);
    store.workbench.set(workbench({ clouds: [cloud({ id: 1 }), cloud({ id: 2 })], controlCount: 4 }));
    layers.setShown(layerKey('cloud', 1), false);
    TestBed.tick();
    await turn();
    expect(server.made('lookAtControl').at(-1)!.given.params).toMatchObject({ cloudId: 2 });
    store.workbench.set(workbench({ clouds: [cloud({ id: 1 })], controlCount: 0 }));
    TestBed.tick();
    await turn();
    expect(control.look()).toBeUndefined();
  });
});

describe('who draws the points', () => {
  test('the graphics card where there is one, the processor where software stands in for it or nothing is known', () => {
    const renderers = TestBed.inject(RendererStore);
    expect(renderers.wanted()).toBe('processor');
    renderers.renderer.set({ name: 'a card', isSoftware: false });
    expect(renderers.wanted()).toBe('graphics');
    renderers.renderer.set({ name: 'software', isSoftware: true });
    expect(renderers.wanted()).toBe('processor');
    renderers.renderer.set(null);
    expect(renderers.wanted()).toBe('processor');
  });

  test('what was chosen holds, and is kept in the browser', () => {
    TestBed.inject(RendererStore).choose('graphics');
    expect(localStorage.getItem('pampero-painter')).toBe('graphics');
    storesOver(() => undefined, [RendererStore]);
    expect(TestBed.inject(RendererStore).choice()).toBe('graphics');
    expect(TestBed.inject(RendererStore).wanted()).toBe('graphics');
    localStorage.setItem('pampero-painter', 'nonsense');
    storesOver(() => undefined, [RendererStore]);
    expect(TestBed.inject(RendererStore).choice()).toBe('automatic');
  });

  test('what another browser found here does not count, and what cannot be read is asked again', async () => {
    const { rememberedRenderer } = await import('../drawing/renderer-detection');
    expect(rememberedRenderer()).toBeUndefined();
    localStorage.setItem(
      'pampero-renderer',
      JSON.stringify({ browser: 'another', renderer: { name: 'x', isSoftware: false } }),
    );
    expect(rememberedRenderer()).toBeUndefined();
    localStorage.setItem(
      'pampero-renderer',
      JSON.stringify({ browser: navigator.userAgent, renderer: { name: 'x', isSoftware: false } }),
    );
    expect(rememberedRenderer()).toEqual({ name: 'x', isSoftware: false });
    localStorage.setItem('pampero-renderer', JSON.stringify({ browser: navigator.userAgent }));
    expect(rememberedRenderer()).toBeNull();
    localStorage.setItem('pampero-renderer', '{');
    expect(rememberedRenderer()).toBeUndefined();
  });
});
