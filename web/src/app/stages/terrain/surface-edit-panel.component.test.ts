// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import { signal } from '@angular/core';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { LayerStore } from '../../state/layer-store';
import { ViewStore } from '../../state/view-store';
import { SurfaceEditPanelComponent } from './surface-edit-panel.component';
import { SurfaceEditStore } from './surface-edit-store';

const edits = {
  isLooking: signal(false),
  faults: signal<object[] | undefined>(undefined),
  currentFault: signal<object | undefined>(undefined),
  mode: signal('take-out'),
  elevation: signal<number | undefined>(undefined),
  tooMany: signal(false),
  fault: signal(''),
  look: vi.fn(),
  show: vi.fn(),
  takeOut: vi.fn(),
};
const shown = signal<object | undefined>({ parameters: {} });
let screen: Screen<SurfaceEditPanelComponent>;
let said: string[];

beforeEach(async () => {
  vi.clearAllMocks();
  edits.faults.set(undefined);
  edits.mode.set('take-out');
  edits.elevation.set(undefined);
  edits.tooMany.set(false);
  edits.fault.set('');
  shown.set({ parameters: {} });
  ({ said } = openJob(
    {},
    {
      providers: [
        { provide: SurfaceEditStore, useValue: edits },
        { provide: LayerStore, useValue: { shownSurface: shown } },
        { provide: ViewStore, useValue: { tool, takeTool: (id: string) => tool.set(id) } },
      ],
    },
  ));
  tool.set('look');
  screen = await Screen.of(SurfaceEditPanelComponent);
});
const tool = signal('look');

describe('a surface set right by hand', () => {
  test('what looks wrong is counted by kind; nothing is told as nothing', async () => {
    await screen.press('Find spikes, pits and holes');
    expect(edits.look).toHaveBeenCalledOnce();
    edits.faults.set([]);
    await screen.settled();
    expect(screen.one('fault-count').textContent).toBe('Nothing found.');
    edits.faults.set([{ kind: 'spike', size: 2.345 }, { kind: 'hole', size: 40.4 }, { kind: 'spike', size: 1 }]); // prettier-ignore
    await screen.settled();
    expect(screen.one('fault-count').textContent).toBe('2 spikes, 1 hole');
  });

  test('while it looks it cannot be asked again', async () => {
    edits.isLooking.set(true);
    await screen.settled();
    expect(screen.one<HTMLButtonElement>('find-faults').disabled).toBe(true);
    expect(screen.one('find-faults').textContent.trim()).toBe('Looking…');
    edits.isLooking.set(false);
  });

  test('the tool is taken and laid down; what a click does is chosen meanwhile', async () => {
    expect(screen.has('edit-swap')).toBe(false);
    await screen.press('Edit triangles');
    expect(tool()).toBe('triangles');
    await screen.tick(screen.one('edit-swap'));
    expect(edits.mode()).toBe('swap');
    await screen.press('Stop editing');
    expect(tool()).toBe('look');
  });

  test('a point that is added has the elevation that is typed, or that of the surface', async () => {
    await screen.press('Edit triangles');
    await screen.tick(screen.one('edit-add'));
    await screen.type('edit-elevation', '3050 cm');
    expect(edits.elevation()).toBeCloseTo(30.5, 9);
    await screen.type('edit-elevation', 'high');
    expect(said.at(-1)).toMatch(/^The elevation stays as it was\. “high”/);
    expect([edits.elevation(), screen.one<HTMLInputElement>('edit-elevation').value]).toEqual([30.5, '30.500']);
    await screen.type('edit-elevation', ' ');
    expect(edits.elevation()).toBeUndefined();
  });

  test('says how many edits are kept, why a click did nothing, and when the land is too wide for edges', async () => {
    expect(screen.text).not.toContain('by hand');
    shown.set({ parameters: { edits: [{}, {}] } });
    edits.fault.set('There is no point here.');
    tool.set('triangles');
    edits.tooMany.set(true);
    await screen.settled();
    expect(screen.text).toContain('2 edits by hand, kept when it is rebuilt');
    expect(screen.one('[role="alert"]').textContent).toBe('There is no point here.');
    expect(screen.text).toContain('Zoom in to see the triangles.');
  });
});
