// @vitest-environment jsdom
import { openJob, Screen } from '../../screen.fixture';
import { Component, input, output } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test } from 'vitest';
import { cloud, surface, type PretendServer } from '../../stores.fixture';
import { AdjustmentComponent } from './adjustment.component';
import { AgreementComponent } from './agreement.component';
import { DifferenceMapComponent } from './difference-map.component';
import { StripSectionComponent } from './strip-section.component';

@Component({ selector: 'pam-difference-map', template: '' })
class PretendMapComponent {
  readonly productId = input(0);
  readonly frame = input<unknown>();
  readonly halfWidth = input(0);
  readonly unit = input('');
  readonly parts = input<unknown>();
  readonly chosen = output<readonly [number, number]>();
}
@Component({ selector: 'pam-agreement', template: '' })
class PretendAgreementComponent {
  readonly agreement = input<unknown>();
  readonly limit = input(0);
  readonly unit = input('');
}
@Component({ selector: 'pam-strip-section', template: '' })
class PretendSectionComponent {
  readonly product = input<unknown>();
}

const agreement = (rmsd: number): object => ({ all: { rmsd }, histogram: { halfWidth: 0.1 } });
const adjustment = (facts: object = {}): unknown =>
  surface(5, {
    kind: 'adjustment',
    facts: {
      cloudId: 1,
      positions: 0,
      before: agreement(0.11),
      after: agreement(0.004),
      expected: 0.0038,
      limits: { between: 0.08 },
      remarks: ['No cross strip: pitch and height move together.'],
      map: {},
      unknowns: [
        { label: 'Boresight roll', unit: '°', value: 0.01234, standardDeviation: 0.0003, isHeld: false },
        { label: 'Range scale', unit: 'ppm', value: -12.4, standardDeviation: 3, isHeld: false },
        { label: 'Height of strip 3', unit: 'm', value: 0.0514, standardDeviation: 0.001, isHeld: false },
        { label: 'Boresight heading', unit: '°', value: 0, standardDeviation: 0, isHeld: true },
      ],
      control: [
        { before: 0.3, after: 0.03, isKeptOut: false },
        { before: 0.4, after: 0.04, isKeptOut: false },
        { before: 0.06, after: 0.05, isKeptOut: true },
      ],
      ...facts,
    },
  } as never);

let screen: Screen<AdjustmentComponent>;
let server: PretendServer;
const open = async (facts: object = {}, clouds = [cloud({ id: 1, name: 'Flight' })]): Promise<void> => {
  ({ server } = openJob(
    { clouds },
    {
      before: () =>
        TestBed.overrideComponent(AdjustmentComponent, {
          remove: { imports: [AgreementComponent, DifferenceMapComponent, StripSectionComponent] },
          add: { imports: [PretendAgreementComponent, PretendMapComponent, PretendSectionComponent] },
        }),
    },
  ));
  screen = await Screen.of(AdjustmentComponent, { product: adjustment(facts) });
};
const plain = (text: string): string => text.replace(/[\u202f\u2009\u00a0]/g, ' ');

describe('an adjustment before it is applied', () => {
  beforeEach(() => open());

  test('says what strips differed by, what is left, and whether the limit holds', async () => {
    expect(plain(screen.one('adjustment-verdict').textContent)).toBe(
      'RMSDz between strips 0.110 m before, 0.004 m after; ranging noise alone leaves 0.004 m. The limit of 0.080 m holds.',
    );
    expect(screen.one('adjustment-verdict').classList).toContain('good');
    await open({ after: agreement(0.09) });
    expect(screen.one('adjustment-verdict').textContent).toContain('does not hold');
    expect(screen.one('adjustment-verdict').classList).not.toContain('good');
  });

  test('lists each correction in its unit; what the flight does not tell is said', () => {
    expect(screen.texts('tbody tr').map(plain)).toEqual([
      'Boresight roll+0.0123°0.0003',
      'Range scale-12 ppm3',
      'Height of strip 3+0.051 m0.001',
      'Boresight headingnot told by this flight',
    ]);
    expect(screen.texts('p')[0]).toBe('No cross strip: pitch and height move together.');
  });

  test('holds control that was used and points kept out apart', async () => {
    // √((0.3² + 0.4²) / 2) = 0.354; √((0.03² + 0.04²) / 2) = 0.035
    expect(plain(screen.one('adjustment-control').textContent)).toBe(
      'RMSEz at control used (2): 0.354 m before, 0.035 m after. RMSEz at points kept out (1): 0.060 m before, 0.050 m after.',
    );
    await open({ control: [] });
    expect(screen.has('adjustment-control')).toBe(false);
  });

  test('is applied, and leaves as a report', async () => {
    expect(screen.one('adjustment-report').getAttribute('href')).toContain('/jobs/job/products/5/file?format=pdf');
    await screen.press('Apply the corrections');
    expect(server.made('startOperation')[0]!.given).toMatchObject({ params: { operation: 'apply-adjustment' }, body: { adjustment: 5 } }); // prettier-ignore
  });

  test('of positions that are not shown now it cannot be applied, and says which are', async () => {
    const moved = { shown: 2, sets: [{ id: 2, name: 'adjusted' }] };
    await open({}, [cloud({ id: 1, name: 'Flight', positions: moved as never })]);
    expect(screen.has('run-apply-adjustment')).toBe(false);
    expect(screen.text).toContain('Flight is shown as “adjusted” now. Undo goes back; “Positions” shows either.');
    await open({ positions: 2 });
    expect(screen.text).toContain('Flight is shown as it came now.');
    await open({}, []);
    expect(screen.text).toContain('Its cloud is not in the job any more.');
  });
});
