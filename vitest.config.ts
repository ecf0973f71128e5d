import { availableParallelism } from 'node:os';
import { defineConfig } from 'vitest/config';
import { componentsInTests } from './web/component-tests.js';

/** Both cores of a small machine: left to itself the runner keeps one free. */
const maxWorkers = Math.max(2, availableParallelism());

/** @param isolate - a process of its own for each file, as one needs that mocks a module; half of the page's time is saved without */
const unit = (name: string, isolate = true) => ({
  test: { name, include: [`${name}/src/**/*.test.ts`], environment: 'node', testTimeout: 60_000, maxWorkers, isolate },
});

export default defineConfig({
  test: {
    reporters: ['default', './scripts/closing-line-reporter.ts'],
    projects: [
      unit('core', false),
      unit('contract', false),
      { plugins: [componentsInTests()], ...unit('web', false) },
      unit('demo'),
      unit('client-view'),
      {
        test: {
          name: 'server',
          include: ['server/src/**/*.test.ts'],
          environment: 'node',
          testTimeout: 120_000,
          hookTimeout: 120_000,
          isolate: false,
          server: { deps: { external: [/\/(core|contract)\/dist\//] } },
          maxWorkers,
        },
      },
      {
        test: {
          name: 'e2e',
          include: ['e2e/src/**/*.test.ts'],
          environment: 'node',
          testTimeout: 240_000,
          hookTimeout: 240_000,
          fileParallelism: false,
          sequence: { groupOrder: 1 },
        },
      },
    ],
  },
});
