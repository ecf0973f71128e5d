// @vitest-environment jsdom
import { openJob, Screen } from '../screen.fixture';
import { TestBed } from '@angular/core/testing';
import { beforeEach, describe, expect, test, vi } from 'vitest';
import { ViewStore } from '../state/view-store';
import { ViewCameras } from '../viewer/view-cameras';
import { SectionBarComponent } from './section-bar.component';

let screen: Screen<SectionBarComponent>;
let views: ViewStore;
let said: string[];
const turnSection = vi.fn();
beforeEach(async () => {
  ({ said } = openJob({}, { providers: [{ provide: ViewCameras, useValue: { turnSection } }] }));
  views = TestBed.inject(ViewStore);
  screen = await Screen.of(SectionBarComponent);
});
const valueOf = (name: string): string => screen.one<HTMLInputElement>(name).value;

describe('the bar of the section', () => {
  test('depth is typed in any unit; the step of the arrow keys follows it until it has one of its own', async () => {
    await screen.type('section-depth', '250 cm');
    expect([views.sectionDepth(), valueOf('section-depth'), valueOf('section-step')]).toEqual([2.5, '2.50', '2.50']);
    await screen.type('section-step', '0.5');
    await screen.type('section-depth', '4');
    expect([views.sectionStep(), valueOf('section-step')]).toEqual([0.5, '0.50']);
    await screen.type('section-step', '');
    expect([views.sectionStep(), valueOf('section-step')]).toEqual([4, '4.00']);
  });

  test.each(['0', '-3', 'a bit', '1e'])('a depth of “%s” goes back to what it was, and says why', async (typed) => {
    const before = valueOf('section-depth');
    await screen.type('section-depth', typed);
    expect(valueOf('section-depth')).toBe(before);
    expect(said.at(-1)).toMatch(/^The depth stays as it was\. /);
  });

  test('looks back, and closes', async () => {
    await screen.press('Look back');
    expect(turnSection).toHaveBeenCalledOnce();
    views.section.set({} as never);
    await screen.press('Close the section');
    expect(views.section()).toBeUndefined();
  });
});
