// @vitest-environment jsdom
import { Screen } from '../../screen.fixture';
import { MAT_DIALOG_DATA, MatDialogRef } from '@angular/material/dialog';
import { beforeEach, describe, expect, test } from 'vitest';
import { cloud, storesOver } from '../../stores.fixture';
import { ExportPointsDialogComponent, type ExportPointsData } from './export-points-dialog.component';

const data: ExportPointsData = {
  jobId: 'bank',
  unit: 'metre',
  cloud: cloud({ id: 4, name: 'East', classCounts: { '1': 1200, '2': 34_000, '7': 5 } }),
};
let screen: Screen<ExportPointsDialogComponent>;
const open = async (more: Partial<ExportPointsData> = {}): Promise<void> => {
  storesOver(
    () => undefined,
    [
      { provide: MAT_DIALOG_DATA, useValue: { ...data, ...more } },
      { provide: MatDialogRef, useValue: { close: () => undefined } },
    ],
  );
  screen = await Screen.of(ExportPointsDialogComponent);
};
/** Where the file would be fetched from. */
const asked = (): URLSearchParams =>
  new URL(screen.one<HTMLAnchorElement>('export-now').href, 'http://of').searchParams;
const boxOf = (says: string): HTMLInputElement =>
  screen
    .all('fieldset label, .line label')
    .find(({ textContent }) => textContent.includes(says))!
    .querySelector('input')!;

describe('points of a cloud leave', () => {
  beforeEach(() => open());

  test('as LAS 1.4 with all classes, unless something else is chosen', () => {
    expect(screen.text).toContain('Points of East');
    expect(screen.one('export-now').textContent.trim()).toBe('Write LAS 1.4');
    expect(screen.one<HTMLAnchorElement>('export-now').getAttribute('href')).toContain('/jobs/bank/clouds/4/points');
    expect(Object.fromEntries(asked())).toEqual({ format: 'las' });
    expect(screen.texts('legend')).toEqual(['Classes']);
  });

  test('in a version for older programs', async () => {
    await screen.tick(screen.one('format-laz12'));
    expect(Object.fromEntries(asked())).toEqual({ format: 'laz', version: '1.2' });
    expect(screen.one('export-now').textContent.trim()).toBe('Write LAZ 1.2');
  });

  test('without classes that are taken out; without any, it says so and nothing can be written', async () => {
    await screen.tick(boxOf('Low point'));
    expect(asked().getAll('classes').join()).toBe('1,2');
    await screen.tick(boxOf('Low point'));
    expect(asked().has('classes')).toBe(false);
    for (const name of ['1 ', '2 Ground', '7 Low']) await screen.tick(boxOf(name));
    expect(screen.one('.notice.error').textContent).toBe('Choose at least one class.');
    expect(screen.one('export-now').getAttribute('aria-disabled')).toBe('true');
    expect(screen.one('export-now').hasAttribute('href')).toBe(false);
  });

  test('one to a cube, typed in any unit; nonsense is told where it is typed', async () => {
    await screen.type('export-spacing', '0.5');
    expect(asked().get('spacing')).toBe('0.5');
    await screen.type('export-spacing', '50 cm');
    expect(asked().get('spacing')).toBe('0.5');
    for (const wrong of ['a bit', '0', '-1']) {
      await screen.type('export-spacing', wrong);
      expect(screen.one('export-now').hasAttribute('href'), wrong).toBe(false);
      expect(screen.one('.notice.error').textContent, wrong).toMatch(/\.$/);
    }
    await screen.type('export-spacing', ' ');
    expect(asked().has('spacing')).toBe(false);
  });

  test('with or without withheld points', async () => {
    await screen.tick(boxOf('leave withheld points out'));
    expect(asked().get('withheld')).toBe('left-out');
  });

  test('as text in the columns chosen, in their own order whatever the order of choosing', async () => {
    await screen.tick(screen.one('format-csv'));
    expect(asked().getAll('columns').join()).toBe('easting,northing,elevation,intensity,class');
    await screen.tick(boxOf('northing'));
    await screen.tick(boxOf('intensity'));
    await screen.tick(boxOf('northing'));
    expect(asked().getAll('columns').join()).toBe('easting,northing,elevation,class');
    for (const name of ['easting', 'northing', 'elevation', 'class']) {
      await screen.tick(boxOf(name));
    }
    expect(screen.one('.notice.error').textContent).toBe('Choose at least one column.');
  });

  test('columns that the cloud does not have are not offered', async () => {
    await open({ cloud: { ...data.cloud, columns: { ...data.cloud.columns, gpsTime: false } } });
    await screen.tick(screen.one('format-xyz'));
    const columns = (): string[] =>
      screen.all('fieldset:first-of-type label').map(({ textContent }) => textContent.trim());
    expect(columns()).not.toContain('red');
    expect(columns().join(' ')).not.toContain('GPS time');
    await open({
      cloud: { ...data.cloud, columns: { ...data.cloud.columns, rgb: true, gpsTime: true } },
      unit: 'us-survey-foot',
    });
    await screen.tick(screen.one('format-xyz'));
    expect(columns()).toContain('red');
    expect(screen.text).toContain('ft');
  });
});
