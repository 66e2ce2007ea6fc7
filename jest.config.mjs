// One compiler (swc) for the server, Node and the tests; packages that are ESM only are transformed too.
const esm = ['@noble', 'fft.js', '@xmldom', 'pitchy', 'pinia', 'nostics', '@vue/devtools-[a-z]+'];
const swc = [
  '@swc/jest',
  {
    swcrc: false,
    sourceMaps: 'inline',
    module: { type: 'commonjs' },
    jsc: {
      target: 'es2022',
      keepClassNames: true,
      parser: { syntax: 'typescript', decorators: true },
      transform: { legacyDecorator: true, decoratorMetadata: true, useDefineForClassFields: false },
    },
  },
];
export default {
  testEnvironment: 'node',
  testTimeout: 180000,
  setupFiles: ['reflect-metadata'],
  testMatch: [
    '<rootDir>/{core,server,demo,web}/**/*.test.ts',
    '<rootDir>/tests/{reference,api}/**/*.test.ts',
  ],
  modulePathIgnorePatterns: ['<rootDir>/dist/', '<rootDir>/.data/'],
  transformIgnorePatterns: [`/node_modules/(?!(?:${esm.join('|')})/)`],
  transform: { '^.+\\.[mc]?[jt]s$': swc },
};
