import type { Reporter, TestModule } from 'vitest/node';

/** Ends a run with one plain line, `unit: 210 passed, 0 failed`, that a person or a script reads at a glance. */
export default class ClosingLineReporter implements Reporter {
  onTestRunEnd(modules: readonly TestModule[]): void {
    const count = { passed: 0, failed: 0, skipped: 0 };
    for (const module of modules) {
      for (const test of module.children.allTests()) {
        const state = test.result().state;
        if (state === 'passed' || state === 'failed' || state === 'skipped') count[state] += 1;
      }
      if (module.state() === 'failed' && module.children.size === 0) count.failed += 1;
      // Its process ended before it did: the runner itself does not say whose.
      if (module.state() === 'pending' || module.state() === 'queued') console.log(`did not end: ${module.moduleId}`);
    }
    const skipped = count.skipped > 0 ? `, ${count.skipped} skipped` : '';
    console.log(`${count.passed} passed, ${count.failed} failed${skipped}`);
  }
}
