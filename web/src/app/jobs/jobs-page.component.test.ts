// @vitest-environment jsdom
import { Screen } from '../screen.fixture';
import { TestBed } from '@angular/core/testing';
import { MatDialog } from '@angular/material/dialog';
import { provideRouter, Router } from '@angular/router';
import { of } from 'rxjs';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { storesOver, type PretendServer } from '../stores.fixture';
import { JobsPageComponent } from './jobs-page.component';

const job = (id: string, facts: object = {}): object => ({
  id, name: `Job ${id}`, unit: 'metre', crs: { epsg: 5347 }, pointCount: 1_471_588, cloudCount: 1, fileBytes: 25_000_000,
  changedAt: '2026-03-04T10:11:00.000Z', ...facts,
}); // prettier-ignore
let screen: Screen<JobsPageComponent>;
let server: PretendServer;
let said: string[];
let answer: unknown;
let opened: unknown[];

beforeEach(async () => {
  answer = undefined;
  opened = [];
  const dialog = {
    open: (...given: unknown[]) => {
      opened.push(given[0]);
      return { afterClosed: () => of(answer) };
    },
  };
  ({ server, said } = storesOver(() => undefined, [provideRouter([]), { provide: MatDialog, useValue: dialog }]));
  screen = await Screen.of(JobsPageComponent);
});
const list = async (jobs: object[], unreadable: object[] = []): Promise<void> => {
  server.answer('listUnreadableJobs', unreadable);
  server.answer('listJobs', jobs);
  await screen.settled();
};
const menuOf = async (name: string, item: string): Promise<void> => {
  await screen.press(`More about ${name}`);
  const found = [...document.querySelectorAll<HTMLElement>('.mat-mdc-menu-item')].find(({ textContent }) => textContent.trim() === item)!; // prettier-ignore
  found.click();
  await screen.settled();
};
const plain = (text: string): string => text.replace(/[\u202f\u2009\u00a0]/g, ' ');

describe('all jobs', () => {
  test('before they are known nothing is claimed; without any it says how to begin', async () => {
    expect(screen.text).not.toContain('No job yet');
    await list([]);
    expect(screen.text).toContain('No job yet. A job holds one site’s clouds, surfaces and history in one file.');
  });

  test('are told with their system, points, clouds and size', async () => {
    await list([job('a'), job('b', { crs: { name: 'local' }, pointCount: 0, cloudCount: 0, unit: 'us-survey-foot' })]);
    const rows = screen.texts('article a[data-testid="job"]').map(plain);
    expect(rows[0]).toMatch(/^Job aEPSG:5347, metres?1 471 588 points1 cloud, 25.* MB/);
    expect(rows[1]).toMatch(/^Job blocalno points yet0 clouds/);
    expect(screen.all('article a')[0]!.getAttribute('href')).toBe('/jobs/a/intake');
  });

  test('that cannot be listed are told as such', async () => {
    server.refuse('listJobs', 'The folder of jobs cannot be read.');
    await screen.settled();
    expect(screen.one('[role="alert"]').textContent).toBe('The folder of jobs cannot be read.');
  });

  test('a new one is made and opened; a dialog that is left makes none', async () => {
    const go = vi.spyOn(TestBed.inject(Router), 'navigate').mockResolvedValue(true);
    await screen.press(screen.one('new-job'));
    expect(server.made('createJob')).toEqual([]);
    answer = { name: 'North', unit: 'metre' };
    await screen.press(screen.one('new-job'));
    expect(server.made('createJob')[0]!.given.body).toEqual({ name: 'North', unit: 'metre' });
    server.answer('createJob', job('north'));
    expect(go).toHaveBeenCalledWith(['/jobs', 'north', 'intake']);
  });

  test('a name that the server refuses is told', async () => {
    answer = { name: 'North', unit: 'metre' };
    await screen.press(screen.one('new-job'));
    server.refuse('createJob', 'No room on the disk.');
    expect(said).toEqual(['No room on the disk.']);
  });

  test('one is restored from its file, and the list read again', async () => {
    await list([]);
    const input = screen.one<HTMLInputElement>('job-file');
    const file = new File(['x'], 'bank.pampero');
    Object.defineProperty(input, 'files', { value: [file], configurable: true });
    Object.defineProperty(input, 'value', { value: '', writable: true });
    input.dispatchEvent(new Event('change'));
    expect(server.made('restoreJob')[0]!.given.body).toBe(file);
    server.answer('restoreJob', job('bank'));
    expect(said).toEqual(['Job bank is restored.']);
    expect(server.made('listJobs')).toHaveLength(2);
    Object.defineProperty(input, 'files', { value: [], configurable: true });
    input.dispatchEvent(new Event('change'));
    expect(server.made('restoreJob')).toHaveLength(1);
  });

  test('a file that is no job is told in its own words', async () => {
    const input = screen.one<HTMLInputElement>('job-file');
    Object.defineProperty(input, 'files', { value: [new File(['x'], 'a.pampero')], configurable: true });
    Object.defineProperty(input, 'value', { value: '', writable: true });
    input.dispatchEvent(new Event('change'));
    server.refuse('restoreJob', 'a.pampero is no job of Pampero.');
    expect(said).toEqual(['a.pampero is no job of Pampero.']);
  });

  test('one is removed only by who is sure', async () => {
    await list([job('a')]);
    answer = false;
    await menuOf('Job a', 'Remove');
    expect(server.made('removeJob')).toEqual([]);
    answer = true;
    await menuOf('Job a', 'Remove');
    expect(server.made('removeJob')[0]!.given.params).toEqual({ jobId: 'a' });
    expect(opened).toHaveLength(2);
  });

  test('files that cannot be opened are named with what is wrong, and moved aside', async () => {
    await list([job('a')], [{ fileName: 'x.pampero', what: 'x.pampero is a folder.', fix: 'Move it aside.' }]);
    expect(screen.one('unreadable').textContent).toContain('x.pampero is a folder. Move it aside.');
    await screen.press('Move x.pampero aside');
    server.answer('moveJobAside', {});
    expect(said).toEqual(['x.pampero lies in the folder “aside” now.']);
    expect(server.made('listUnreadableJobs')).toHaveLength(2);
  });
});
