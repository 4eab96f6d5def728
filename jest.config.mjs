const swc = ['@swc/jest', { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' }, module: { type: 'commonjs' } }];
const ours = {
  '^@dart-loop/(core|contract)$': '<rootDir>/packages/$1/src/index.ts',
  '^@dart-loop/(core|contract)/(.+)$': '<rootDir>/packages/$1/src/$2',
};

/** Three kinds of tests that need no browser: the core and the commands alone, the server with its database, the web's parts. */
export default {
  projects: [
    {
      displayName: 'core',
      testMatch: ['<rootDir>/packages/*/test/**/*.test.ts', '<rootDir>/cli/test/**/*.test.ts'],
      transform: { '\\.ts$': swc },
      moduleNameMapper: ours,
      testEnvironment: 'node',
    },
    {
      displayName: 'server',
      testMatch: ['<rootDir>/apps/server/test/**/*.test.ts'],
      transform: { '\\.ts$': swc },
      moduleNameMapper: ours,
      testEnvironment: 'node',
      globalSetup: '<rootDir>/apps/server/test/support/start.ts',
      globalTeardown: '<rootDir>/apps/server/test/support/stop.ts',
      setupFilesAfterEnv: ['<rootDir>/apps/server/test/support/patience.ts'],
    },
    {
      displayName: 'web',
      preset: 'jest-expo',
      rootDir: '<rootDir>/apps/web',
      testMatch: ['<rootDir>/test/**/*.test.tsx'],
      transformIgnorePatterns: [
        '/node_modules/(?!((jest-)?react-native|@react-native(-community)?|expo(nent)?|@expo(nent)?/.*|@expo-google-fonts/.*|expo-router|react-navigation|@react-navigation/.*|@rneui/.*|react-native-svg|swr))',
      ],
    },
  ],
};
