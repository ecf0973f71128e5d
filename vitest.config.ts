import { defineConfig } from 'vitest/config';

const unit = (name: string) => ({
  test: { name, include: [`${name}/src/**/*.test.ts`], environment: 'node', testTimeout: 60_000 },
});

export default defineConfig({
  test: {
    reporters: ['default', './scripts/closing-line-reporter.ts'],
    projects: [
      unit('core'),
      unit('contract'),
      unit('web'),
      unit('demo'),
      {
        test: {
          name: 'server',
          include: ['server/src/**/*.test.ts'],
          environment: 'node',
          testTimeout: 120_000,
          hookTimeout: 120_000,
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
        },
      },
    ],
  },
});
