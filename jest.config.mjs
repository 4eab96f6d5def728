const swc = [
  '@swc/jest',
  {
    jsc: { parser: { syntax: 'typescript' }, target: 'es2022' },
    module: { type: 'commonjs', lazy: ['date-holidays'] },
  },
];
const ours = {
  '^@dart-loop/(core|contract)$': '<rootDir>/packages/$1/src/index.ts',
  '^@dart-loop/(core|contract)/(.+)$': '<rootDir>/packages/$1/src/$2',
};

/** With a database and stand-ins; one cluster for all files. */
const server = {
  transform: { '\\.ts$': swc },
  moduleNameMapper: ours,
  testEnvironment: 'node',
  globalSetup: '<rootDir>/apps/server/test/support/start.ts',
  globalTeardown: '<rootDir>/apps/server/test/support/stop.ts',
  setupFilesAfterEnv: ['<rootDir>/apps/server/test/support/patience.ts'],
};

/**
 * Three kinds of tests that need no browser: the core and the commands alone, the server with its database,
 * the web's parts.
 */
export default {
  projects: [
    {
      displayName: 'core',
      testMatch: [
        '<rootDir>/packages/*/test/**/*.test.ts',
        '<rootDir>/apps/standins/test/**/*.test.ts',
        '<rootDir>/cli/test/**/*.test.ts',
      ],
      transform: { '\\.ts$': swc },
      moduleNameMapper: ours,
      testEnvironment: 'node',
      setupFilesAfterEnv: ['<rootDir>/packages/core/test/patience.ts'],
    },
    { ...server, displayName: 'server', testMatch: ['<rootDir>/apps/server/test/*.test.ts'] },
    // What is measured is measured while no other tests run.
    { ...server, displayName: 'server-alone', testMatch: ['<rootDir>/apps/server/test/alone/*.test.ts'] },
    {
      displayName: 'web',
      preset: 'jest-expo',
      rootDir: '<rootDir>/apps/web',
      testMatch: ['<rootDir>/test/**/*.test.tsx'],
      setupFilesAfterEnv: ['<rootDir>/test/support/patience.ts'],
      // The drawings as CommonJS: modules of their other form are not transformed.
      moduleNameMapper: {
        '^lucide-react-native/icons/(.*)$':
          '<rootDir>/../../node_modules/lucide-react-native/dist/cjs/icons/$1.js',
      },
      transformIgnorePatterns: [
        '/node_modules/(?!((jest-)?react-native|@react-native(-community)?|expo(nent)?|@expo(nent)?/.*|@expo-google-fonts/.*|expo-router|react-navigation|@react-navigation/.*|@rneui/.*|react-native-svg|swr))',
      ],
    },
  ],
};
