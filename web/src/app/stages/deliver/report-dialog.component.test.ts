// @vitest-environment jsdom
import { openJob, PretendDialog, Screen } from '../../screen.fixture';
import { Component, model, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { REPORT_PARTS } from '@pampero/contract';
import { beforeEach, describe, expect, test } from 'vitest';
import { catchSaved, type SavedFile } from '../../saved.fixture';
import { WordsEditorComponent } from '../../shared/words-editor.component';
import type { PretendServer } from '../../stores.fixture';
import { ViewCameras } from '../../viewer/view-cameras';
import { ViewCapture } from '../../viewer/view-capture';
import { ReportDialogComponent } from './report-dialog.component';
import { ReportDraft } from './report-draft';

/** The editor is a library's, and needs a browser; its words are what counts here. */
@Component({ selector: 'pam-words-editor', template: '' })
class PretendEditorComponent {
  readonly words = model('');
}

let screen: Screen<ReportDialogComponent>;
let server: PretendServer;
let saved: readonly SavedFile[];
let dialog: PretendDialog;
let captured: string | undefined;
const body = () => server.made('writeReport').at(-1)!.given.body as Record<string, unknown>;

beforeEach(async () => {
  saved = catchSaved();
  captured = 'aGVsbG8=';
  dialog = new PretendDialog();
  ({ server } = openJob(
    {},
    {
      providers: [
        ReportDraft,
        { provide: ViewCameras, useValue: { shown: signal(['plan', 'section']) } },
        { provide: ViewCapture, useValue: { capture: () => captured } },
        ...dialog.over(),
      ],
      before: () =>
        TestBed.overrideComponent(ReportDialogComponent, {
          remove: { imports: [WordsEditorComponent] },
          add: { imports: [PretendEditorComponent] },
        }),
    },
  ));
  screen = await Screen.of(ReportDialogComponent);
});

describe('a report', () => {
  test('has all its parts unless some are taken out, in their order', async () => {
    await screen.tick(screen.one(`part-of-report-${REPORT_PARTS[1]}`));
    await screen.tick(screen.one(`part-of-report-${REPORT_PARTS[0]}`));
    await screen.tick(screen.one(`part-of-report-${REPORT_PARTS[0]}`));
    await screen.press('Download PDF');
    expect(body()['parts']).toEqual(REPORT_PARTS.filter((_, k) => k !== 1));
    expect(body()).toMatchObject({ format: 'pdf', pictures: [], surveyor: '' });
    expect(body()).not.toHaveProperty('title');
  });

  test('is signed and titled as typed, and saved under its title', async () => {
    await screen.type('report-title', ' North bank ');
    await screen.type('report-surveyor', 'A. Surveyor');
    await screen.press(screen.one('report-html'));
    expect(body()).toMatchObject({ format: 'html', title: 'North bank', surveyor: 'A. Surveyor' });
    const file = new ArrayBuffer(3);
    server.answer('writeReport', file);
    expect(saved).toEqual([{ bytes: file, name: 'North bank report.html' }]);
    expect(dialog.isClosed).toBe(true);
  });

  test('takes pictures of views as they are now, with a caption each, and lets them go', async () => {
    await screen.press(screen.one('report-view-plan'));
    await screen.press(screen.one('report-view-section'));
    expect(screen.all<HTMLImageElement>('img').map(({ src }) => src)).toEqual(Array(2).fill('data:image/png;base64,aGVsbG8=')); // prettier-ignore
    await screen.type('[aria-label="Caption of picture 2"]', 'Across the crest');
    await screen.press(screen.all('[aria-label="Remove the picture"]')[0]!);
    await screen.press('Download PDF');
    expect(body()['pictures']).toEqual([{ caption: 'Across the crest', image: 'aGVsbG8=' }]);
  });

  test('a view that is not shown is told; after twelve pictures no more are taken', async () => {
    captured = undefined;
    await screen.press(screen.one('report-view-section'));
    expect(screen.one('[role="alert"]').textContent).toBe('Section is not shown now.');
    captured = 'eA==';
    for (let k = 0; k < 12; k++) await screen.press(screen.one('report-view-plan'));
    expect(screen.one<HTMLButtonElement>('report-view-plan').disabled).toBe(true);
  });

  test('what was begun is kept while the job is open', async () => {
    await screen.type('report-surveyor', 'A. Surveyor');
    const again = await Screen.of(ReportDialogComponent);
    expect(again.one<HTMLInputElement>('report-surveyor').value).toBe('A. Surveyor');
  });

  test('a refusal is told and nothing is closed', async () => {
    await screen.press('Download PDF');
    expect(screen.text).toContain('Writing …');
    server.refuse('writeReport', 'No room on the disk.');
    await screen.settled();
    expect(screen.one('[role="alert"]').textContent).toBe('No room on the disk.');
    expect(dialog.isClosed).toBe(false);
  });
});
