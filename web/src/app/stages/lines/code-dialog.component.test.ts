// @vitest-environment jsdom
import { openJob, PretendDialog, Screen } from '../../screen.fixture';
import { TestBed } from '@angular/core/testing';
import { MAT_DIALOG_DATA } from '@angular/material/dialog';
import type { FeatureCode } from '@pampero/core/lines';
import { beforeEach, describe, expect, test } from 'vitest';
import { JobStore } from '../../state/job-store';
import { surface, type PretendServer } from '../../stores.fixture';
import { CodeDialogComponent } from './code-dialog.component';

const codes: FeatureCode[] = [
  { code: 'BANK-TOP', meaning: 'Top of a bank', role: 'breakline', colour: '#8a4b1f', style: 'solid', layer: 'BANKS' },
  { code: 'FENCE', meaning: 'Fence', role: 'plain', colour: '#444444', style: 'dashed', opacity: 0.6, layer: 'FENCES' },
];
let screen: Screen<CodeDialogComponent>;
let server: PretendServer;
let dialog: PretendDialog;
const started = (): unknown => server.made('startOperation').at(-1)?.given.body;
const field = (label: string): HTMLInputElement => screen.one(`[aria-label="${label}"]`);

beforeEach(async () => {
  dialog = new PretendDialog();
  const lines = surface(5, { kind: 'lines', name: 'BANK-TOP', facts: { code: 'BANK-TOP', lines: 1234 } } as never);
  ({ server } = openJob(
    { products: [lines] },
    {
      providers: [
        ...dialog.over(),
        { provide: MAT_DIALOG_DATA, useFactory: () => ({ store: TestBed.inject(JobStore), codes }) },
      ],
    },
  ));
  screen = await Screen.of(CodeDialogComponent);
});

describe('the code list', () => {
  test('shows each code with its lines; a code that has lines keeps its name and stays', () => {
    expect(screen.texts('tbody tr').map((row) => /\d+$/.exec(row.replace(/[\s\u202f]/g, ''))?.[0])).toEqual(['1234', undefined]); // prettier-ignore
    expect(field('Code BANK-TOP').disabled).toBe(true);
    expect(field('Code BANK-TOP').title).toBe('Lines have this code. Give them another one first.');
    expect(field('Code FENCE').disabled).toBe(false);
    expect(screen.all('[aria-label="Remove BANK-TOP"]')).toHaveLength(0);
    expect(screen.one<HTMLButtonElement>('codes-done').disabled).toBe(true);
  });

  test('an opacity that is none of the usual is among the choices', () => {
    const of = (code: string): string[] => [...screen.one<HTMLSelectElement>(`opacity-${code}`).options].map(({ textContent }) => textContent.trim()); // prettier-ignore
    expect(of('FENCE')).toEqual(['100 %', '75 %', '60 %', '50 %', '25 %']);
    expect(of('BANK-TOP')).toEqual(['100 %', '75 %', '50 %', '25 %']);
  });

  test('a meaning, a use and full opacity are kept as changed', async () => {
    await screen.type('meaning-FENCE', 'Wire fence');
    await screen.choose('use-FENCE', 'boundary');
    const opacity = screen.one<HTMLSelectElement>('opacity-FENCE');
    await screen.choose(opacity, opacity.options[0]!.value);
    await screen.press('Keep');
    const { codes: kept } = started() as { codes: FeatureCode[] };
    expect(kept[0]).toEqual(codes[0]);
    expect(kept[1]).toEqual({ ...codes[1], meaning: 'Wire fence', role: 'boundary', opacity: undefined });
  });

  test('a new code goes on the list, its layer is its own name where none is typed', async () => {
    await screen.press(screen.one('add-code'));
    await screen.type(screen.all<HTMLInputElement>('tbody tr')[2]!.querySelectorAll('input')[1]!, ' KERB ');
    await screen.press('Keep');
    expect((started() as { codes: FeatureCode[] }).codes[2]).toMatchObject({ code: 'KERB', layer: 'KERB', role: 'breakline' }); // prettier-ignore
  });

  test('without a name, or twice the same: a sentence, and nothing is stored', async () => {
    await screen.press(screen.one('add-code'));
    await screen.press('Keep');
    expect(screen.one('.problem').textContent).toBe('Give the code a name.');
    await screen.type(screen.all<HTMLInputElement>('tbody tr')[2]!.querySelectorAll('input')[1]!, 'FENCE');
    await screen.press('Keep');
    expect(screen.one('.problem').textContent).toMatch(/FENCE.*\.$/);
    expect([started(), dialog.isClosed]).toEqual([undefined, false]);
  });

  test('one without lines goes; the dialog closes once it is stored, and tells what the server refused', async () => {
    await screen.press('Remove FENCE');
    await screen.press('Keep');
    expect((started() as { codes: FeatureCode[] }).codes.map(({ code }) => code)).toEqual(['BANK-TOP']);
    expect(dialog.isClosed).toBe(true);
  });
});
