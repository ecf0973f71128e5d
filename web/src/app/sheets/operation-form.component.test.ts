// @vitest-environment jsdom
import { openJob, Screen } from '../screen.fixture';
import { buildSurface, drawContours, findGround, importControl, operations, thinCloud } from '@pampero/contract';
import { describe, expect, test, vi } from 'vitest';
import { cloud, surface, type PretendServer } from '../stores.fixture';
import { OperationFormComponent } from './operation-form.component';

let screen: Screen<OperationFormComponent>;
let server: PretendServer;
const bench = {
  clouds: [cloud({ id: 1, name: 'First flight' }), cloud({ id: 4, name: 'Second flight', classCounts: { '2': 500, '6': 20 } })], // prettier-ignore
  products: [surface(7, { name: 'Ground' })],
};
const open = async (
  operation: (typeof operations)[number],
  inputs: Record<string, unknown> = {},
  more: object = {},
): Promise<void> => {
  ({ server } = openJob({ ...bench, ...more }));
  screen = await Screen.of(OperationFormComponent, { operation, ...inputs });
};
const sent = (): Record<string, unknown> => server.made('startOperation').at(-1)!.given.body as never;
const submit = async (): Promise<void> => {
  screen.one('form').dispatchEvent(new Event('submit', { cancelable: true }));
  await screen.settled();
};

test.each(operations.map((operation) => [operation.id, operation] as const))(
  '%s has a form: every field a label and help, and a button that says what it does',
  async (id, operation) => {
    await open(operation);
    expect(screen.one(`run-${id}`).textContent.trim()).toContain(operation.title);
    const more = screen.all<HTMLButtonElement>('.act button[type="button"]')[0];
    if (more) await screen.press(more);
    for (const field of screen.all('.field')) {
      expect(field.querySelector('small')?.textContent, field.textContent).toMatch(/\.$/);
      const control = field.querySelector('input, mat-select, mat-checkbox, [role="combobox"]');
      expect(control, field.textContent).not.toBeNull();
    }
    expect(screen.text).not.toMatch(/undefined|NaN|\[object/);
  },
);

describe('a form', () => {
  test('begins with the defaults in the unit of the job, and sends them for the newest cloud', async () => {
    await open(findGround);
    await submit();
    expect(sent()).toMatchObject({ clouds: [4] });
    await open(findGround, {}, { job: { id: 'job', name: 'Job', unit: 'us-survey-foot', crs: {} } });
    expect(screen.texts('.unit')).toContain('ftUS');
  });

  test('takes lengths in any unit as they are typed', async () => {
    await open(thinCloud);
    const distance = screen.one<HTMLInputElement>('thin-cloud-distance');
    await screen.type(distance, '25 cm');
    await submit();
    expect(sent()['distance']).toBeCloseTo(0.25, 9);
    await screen.type(distance, '0,5');
    await submit();
    expect(sent()['distance']).toBeCloseTo(0.5, 9);
  });

  test('what cannot be read is told beside its field, nothing is sent, and the fault goes once it is typed anew', async () => {
    await open(thinCloud);
    await screen.type('thin-cloud-distance', 'a bit');
    await submit();
    expect(server.made('startOperation')).toEqual([]);
    const wrong = screen.one('.field.wrong');
    expect(wrong.querySelector('[role="alert"]')!.textContent).toContain('“a bit”');
    expect(screen.one('thin-cloud-distance').getAttribute('aria-invalid')).toBe('true');
    await screen.type('thin-cloud-distance', '1');
    expect(screen.all('.field.wrong')).toEqual([]);
  });

  test('what the server refuses stands beside the field it is about, or under the form', async () => {
    await open(thinCloud);
    server.call = vi.fn(server.call.bind(server));
    const pretended = screen.component['store'];
    const start = vi.spyOn(pretended, 'start');
    await submit();
    const refused = start.mock.calls[0]![2] as (error: unknown) => void;
    refused({ problem: { detail: 'No.', errors: [{ pointer: '/distance', detail: 'Too small for this cloud.' }] } });
    await screen.settled();
    expect(screen.one('.field.wrong [role="alert"]').textContent).toBe('Too small for this cloud.');
    refused({ problem: { detail: 'The cloud is being removed.' } });
    await screen.settled();
    expect(screen.texts('[role="alert"]')).toEqual(['The cloud is being removed.']);
  });

  test('proposed settings come first, with their reasons; another set replaces what was typed', async () => {
    const proposed = { label: 'for this cloud', values: { cell: 0.75 }, reasons: ['Points lie 0.4 m apart.'] };
    await open(findGround, { proposed });
    expect(screen.text).toContain('Points lie 0.4 m apart.');
    await submit();
    expect(sent()['cell']).toBe(0.75);
    await screen.type('find-ground-cell', '3');
    await submit();
    expect(sent()['cell']).toBe(3);
    (screen.component as unknown as { chooseSet(label: string): void }).chooseSet('for this cloud');
    await screen.settled();
    await submit();
    expect(sent()['cell']).toBe(0.75);
  });

  test('fields that hardly anyone needs are shown when asked for', async () => {
    await open(buildSurface);
    const few = screen.all('.field').length;
    await screen.press('More');
    expect(screen.all('.field').length).toBeGreaterThan(few);
    expect(screen.button('Fewer').getAttribute('aria-expanded')).toBe('true');
    await screen.press('Fewer');
    expect(screen.all('.field')).toHaveLength(few);
  });

  test('a field that applies to one choice comes and goes with it', async () => {
    await open(drawContours);
    const before = screen.all('.field').length;
    const grid = screen.all<HTMLInputElement>('input[type="radio"]').find(({ checked }) => !checked)!;
    await screen.tick(grid);
    await screen.settled();
    expect(screen.all('.field').length).not.toBe(0);
    expect([before, screen.all<HTMLInputElement>('input[type="radio"]').some(({ checked }) => checked)]).toEqual([before, true]); // prettier-ignore
  });

  test('blocked, it says why and cannot be pressed', async () => {
    await open(findGround, { blocked: 'Import a cloud first.' });
    expect(screen.one<HTMLButtonElement>('run-find-ground').disabled).toBe(true);
    expect(screen.one('.why').textContent).toBe('Import a cloud first.');
  });

  test('what is selected or drawn goes along; what is asked first is waited for', async () => {
    let go: ((given: Record<string, unknown>) => void) | undefined;
    await open(thinCloud, { extra: { classes: [2] }, asksFirst: (then: typeof go) => (go = then) });
    await submit();
    expect(server.made('startOperation')).toEqual([]);
    go!({ distance: '2 m' });
    expect(sent()['distance']).toBeCloseTo(2, 9);
  });

  test('tells what it holds, whenever that changes', async () => {
    openJob(bench);
    const told: Record<string, unknown>[] = [];
    screen = await Screen.of(OperationFormComponent, { operation: thinCloud });
    screen.component.changed.subscribe((values) => told.push(values));
    await screen.type('thin-cloud-distance', '7');
    expect(told.at(-1)!['distance']).toBe('7');
  });
});

describe('a form that works from a file', () => {
  const pick = async (...names: string[]): Promise<void> => {
    const input = screen.one<HTMLInputElement>(`file-${importControl.id}`);
    Object.defineProperty(input, 'files', { value: names.map((name) => new File(['x'], name)), configurable: true });
    Object.defineProperty(input, 'value', { value: '', writable: true, configurable: true });
    input.dispatchEvent(new Event('change'));
    await screen.settled();
  };

  test('asks for it when it is pressed, and sends both', async () => {
    await open(importControl);
    expect(screen.one(`run-${importControl.id}`).textContent.trim()).toMatch(/…$/);
    const click = vi.spyOn(screen.one<HTMLInputElement>(`file-${importControl.id}`), 'click');
    await submit();
    expect(click).toHaveBeenCalledOnce();
    const start = vi.spyOn(screen.component['store'], 'startWithFile').mockImplementation(() => undefined);
    await pick();
    expect(start).not.toHaveBeenCalled();
    await pick('points.csv');
    expect(start.mock.calls[0]!.slice(0, 2)).toEqual([importControl.id, expect.objectContaining({ name: 'points.csv' })]); // prettier-ignore
  });

  test('looked at first, it goes with what was found, or not at all', async () => {
    let found: Record<string, unknown> | undefined = { role: 'check' };
    await open(importControl, { looksFirst: () => Promise.resolve(found) });
    const start = vi.spyOn(screen.component['store'], 'startWithFile').mockImplementation(() => undefined);
    await pick('points.csv');
    await screen.settled();
    expect(start.mock.calls[0]![2]).toMatchObject({ role: 'check' });
    found = undefined;
    await pick('other.csv');
    await screen.settled();
    expect(start).toHaveBeenCalledOnce();
  });
});
