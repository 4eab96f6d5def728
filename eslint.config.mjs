import expo from 'eslint-config-expo/flat.js';

/** Imports go one way; what a part may not reach is named here. */
const oneWay = (files, forbidden, message) => ({
  files,
  rules: {
    'no-restricted-imports': ['error', { patterns: forbidden.map((group) => ({ group: [group], message })) }],
  },
});

export default [
  ...expo,
  { ignores: ['.data/**', '**/dist/**', '**/.expo/**', 'node_modules/**'] },
  {
    rules: {
      'no-console': 'off',
      // The compiler sees to these, in a tenth of the time.
      'import/no-unresolved': 'off',
      'import/namespace': 'off',
      'import/no-named-as-default-member': 'off',
      'import/no-named-as-default': 'off',
      'import/first': 'error',
      'no-var': 'error',
      'prefer-const': 'error',
      eqeqeq: 'error',
      // What is said to somebody stays in one piece, however long.
      'max-len': [
        'error',
        {
          code: 110,
          ignoreStrings: true,
          ignoreTemplateLiterals: true,
          ignoreRegExpLiterals: true,
          ignoreUrls: true,
        },
      ],
      // A schema and its type share a name.
      '@typescript-eslint/no-redeclare': 'off',
      'react-hooks/refs': 'off',
      'react-hooks/immutability': 'off',
      'react-hooks/set-state-in-effect': 'off',
    },
  },
  {
    // A longer file is several things; lists of words and lists of cases are not.
    files: ['packages/*/src/**', 'apps/*/src/**', 'apps/web/**', 'cli/**', 'bench/**'],
    ignores: ['**/test/**', 'packages/core/src/language/moments/senses.ts'],
    rules: { 'max-lines': ['error', 350] },
  },
  {
    // There are no components but in the web.
    files: ['packages/**', 'cli/**', 'bench/**', 'e2e/**', 'apps/server/**', 'apps/standins/**'],
    rules: {
      'react-hooks/static-components': 'off',
    },
  },
  {
    files: ['packages/core/src/**/*.ts'],
    rules: {
      'no-restricted-globals': [
        'error',
        'process',
        'window',
        'document',
        'fetch',
        'setTimeout',
        'setInterval',
      ],
      'no-restricted-properties': [
        'error',
        { object: 'Date', property: 'now', message: 'Time comes in as a value.' },
        { object: 'Math', property: 'random', message: 'Chance comes in as a value.' },
      ],
    },
  },
  oneWay(
    ['packages/core/src/**/*.ts'],
    ['@dart-loop/*', '**/apps/**', 'react*', 'expo*', 'node:*', 'pg', 'express'],
    'The core imports nothing but small pure libraries.',
  ),
  oneWay(
    ['packages/contract/src/**/*.ts'],
    ['**/apps/**', 'react*', 'node:*', 'pg', 'express'],
    'The contract imports the core and Zod only.',
  ),
  oneWay(
    ['apps/web/**/*.{ts,tsx}'],
    ['**/server/**', '**/standins/**', 'node:*', 'pg', 'express'],
    'The web imports the contract and the core.',
  ),
  oneWay(
    ['apps/server/src/**/*.ts'],
    ['**/standins/**', '**/web/**', 'react*'],
    'The server imports the contract and the core.',
  ),
  oneWay(
    ['apps/standins/src/**/*.ts'],
    ['@dart-loop/*', '**/server/**', '**/web/**'],
    'The stand-ins know their own wire formats only.',
  ),
];
