// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import { Component, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { MatDialog } from '@angular/material/dialog';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { RunSheetStore } from '../../state/run-sheet-store';
import { cloud, surface } from '../../stores.fixture';
import { ClientViewComponent } from './client-view.component';
import { DeliverSheetComponent } from './deliver-sheet.component';
import { ReportDialogComponent } from './report-dialog.component';
import { RunSheetsComponent } from './run-sheets.component';

@Component({ selector: 'pam-client-view', template: '' })
class PretendClientViewComponent {}
@Component({ selector: 'pam-run-sheets', template: '' })
class PretendRunSheetsComponent {}

const open = vi.fn();
const current = signal<unknown>(undefined);
let screen: Screen<DeliverSheetComponent>;
const show = async (bench: Parameters<typeof openJob>[0]): Promise<void> => {
  vi.clearAllMocks();
  current.set(undefined);
  openJob(bench, {
    providers: [
      { provide: RunSheetStore, useValue: { current } },
      { provide: MatDialog, useValue: { open } },
    ],
    before: () =>
      TestBed.overrideComponent(DeliverSheetComponent, {
        remove: { imports: [ClientViewComponent, RunSheetsComponent] },
        add: { imports: [PretendClientViewComponent, PretendRunSheetsComponent] },
      }),
  });
  screen = await Screen.of(DeliverSheetComponent);
};
const hrefOf = (name: string): string | null => screen.one(name).getAttribute('href');
const lines = (id: number, code: string, count: number) =>
  surface(id, {
    kind: 'lines',
    name: code,
    facts: { code, role: 'breakline', lines: count, corners: 9, length: 40 },
  } as never);

describe('what leaves a job', () => {
  beforeEach(() =>
    show({
      clouds: [cloud({ id: 3, name: 'East', pointCount: 1200 })],
      products: [surface(7, { isStale: true, staleBecause: 'East has other classes now.' }), lines(8, 'BANK-TOP', 3), lines(9, 'FENCE', 0)],
    }),
  ); // prettier-ignore

  test('each cloud and product in its formats, at its own address', () => {
    expect(hrefOf('export-las')).toContain('/jobs/job/clouds/3/points?format=las');
    expect(hrefOf('export-laz')).toContain('format=laz');
    expect(hrefOf('export-surface-landxml')).toContain('/jobs/job/products/7/file?format=landxml');
    expect(hrefOf('download-job')).toContain('/jobs/job/file');
  });

  test('what is stale says so where it would leave', () => {
    expect(screen.texts('.export .stale')).toEqual(['Stale. East has other classes now.']);
    expect(screen.has('stale-notice')).toBe(true);
  });

  test('all lines in one file, and code by code; a code without lines is left out', async () => {
    expect(hrefOf('export-all-lines-dxf')).toContain('format=dxf');
    expect(screen.text).toContain('3 lines of 1 code, each code on its layer');
    expect(screen.texts('.by-code .export').length).toBe(1);
  });

  test('packages, reports, other formats and tidying up open their dialogs', async () => {
    for (const name of ['hand-over', 'report', 'export-choose', 'deliver-holdings'])
      await screen.press(screen.one(name));
    expect(open).toHaveBeenCalledTimes(4);
    expect(open.mock.calls[1]![0]).toBe(ReportDialogComponent);
    expect((open.mock.calls[2]![1] as { data: { cloud: { id: number } } }).data.cloud.id).toBe(3);
  });

  test('a run sheet on its way is told beside its heading', async () => {
    current.set({ state: 'running', progress: 0.42 });
    await screen.settled();
    expect(screen.text).toContain('42 %');
    current.set({ state: 'waiting', progress: 0.42 });
    await screen.settled();
    expect(screen.text).toContain('waits for you');
  });
});

test('an empty job: nothing to hand over, draw or send, and each says what is missing', async () => {
  await show({});
  expect(screen.one<HTMLButtonElement>('hand-over').disabled).toBe(true);
  expect(screen.text).toContain('Nothing to export yet. Import a cloud in Intake.');
  for (const heading of screen.all<HTMLElement>('[data-testid^="part-"]')) await screen.press(heading);
  expect(screen.text).toContain('There is nothing to send yet: build a surface, draw contours or lines.');
  expect(screen.text).toContain('Draw contours in Terrain or lines in Lines first.');
});
