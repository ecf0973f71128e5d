import eslint from '@eslint/js';
import angular from 'angular-eslint';
import tseslint from 'typescript-eslint';

export default tseslint.config(
  { ignores: ['**/dist/**', '**/node_modules/**', '**/.angular/**', '.pampero/**', 'demo/data/**'] },
  {
    files: ['**/*.ts'],
    extends: [eslint.configs.recommended, ...tseslint.configs.strict, ...tseslint.configs.stylistic],
    rules: {
      // Typed arrays: an index inside the bound is proven by the loop, and `?? 0` would hide a wrong one.
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/prefer-for-of': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/no-dynamic-delete': 'off',
      '@typescript-eslint/no-extraneous-class': ['error', { allowWithDecorator: true }],
      'no-restricted-syntax': [
        'error',
        { selector: 'ExportAllDeclaration', message: 'List the names of a folder one by one.' },
        { selector: 'ExportDefaultDeclaration', message: 'No default exports.' },
      ],
      'no-console': 'error',
    },
  },
  {
    // The list of operations: what each of its files tells goes on from here, so that a new one is a single line.
    files: ['contract/src/operations/every-operation.ts', 'contract/src/operations/index.ts', 'contract/src/index.ts'],
    rules: { 'no-restricted-syntax': 'off' },
  },
  {
    files: ['core/src/**/*.ts'],
    ignores: ['**/*.test.ts', '**/*.fixture.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['node:*', '@pampero/*', 'express', 'sequelize'],
              message: 'The core imports neither Node nor the other packages.',
            },
          ],
        },
      ],
    },
  },
  {
    files: ['web/src/**/*.ts'],
    extends: [...angular.configs.tsRecommended],
    processor: angular.processInlineTemplates,
    rules: { '@angular-eslint/component-selector': ['error', { type: 'element', prefix: 'pam', style: 'kebab-case' }] },
  },
  {
    files: ['web/src/**/*.html'],
    extends: [...angular.configs.templateRecommended, ...angular.configs.templateAccessibility],
  },
  {
    files: [
      'server/src/main.ts',
      'demo/src/main.ts',
      'bench/src/main.ts',
      'bench/src/quality.ts',
      'scripts/**',
      '**/*.test.ts',
      'vitest.config.ts',
      'web/src/svg.d.ts',
    ],
    rules: { 'no-console': 'off', 'no-restricted-syntax': 'off' },
  },
);
