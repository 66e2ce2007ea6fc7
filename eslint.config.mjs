import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import vue from 'eslint-plugin-vue';
import tseslint from 'typescript-eslint';
import house from './scripts/lint/house.mjs';

const NODE_GLOBALS = [
  'process',
  'console',
  'setTimeout',
  'clearTimeout',
  'fetch',
  'AbortSignal',
  'Buffer',
  'performance',
  'structuredClone',
  'URL',
];
/** Loops over samples stay in one piece: they are read beside the formula that they carry out. */
const PROCESSORS = ['core/devices/**/*.ts', 'core/engine/**/*.ts', 'core/measure/**/*.ts'];
/** What a sound is made with: a window and the server must come to the same bits. */
const SOUNDING = ['model', 'session', 'devices', 'engine', 'print'].map((folder) => `core/${folder}/**/*.ts`);
const STORES = 'A store made by Pinia alone holds the screen that was first to need it; use web/ui/store.ts.';
const POWERS = 'Math.pow and ** are not the same in every V8; use core/model/power.ts.';

export default tseslint.config(
  {
    ignores: [
      'dist/',
      '.data/',
      'coverage/',
      'node_modules/',
      'public/',
      'kernels/',
      'core/devices/kernels/wasm.gen.ts',
    ],
  },
  js.configs.recommended,
  ...tseslint.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.{ts,vue}'],
    languageOptions: { parserOptions: { parser: tseslint.parser, extraFileExtensions: ['.vue'] } },
    rules: {
      'no-undef': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'vue/multi-word-component-names': 'off',
      'vue/require-default-prop': 'off',
    },
  },
  {
    files: ['**/*.mjs'],
    languageOptions: { globals: Object.fromEntries(NODE_GLOBALS.map((name) => [name, 'readonly'])) },
  },
  { plugins: { house }, rules: { 'house/arrows': 'error', 'house/no-circles': 'error' } },
  prettier,
  // how it reads; after Prettier's own settings, which would switch some of these off
  {
    files: ['**/*.{ts,vue,mjs}'],
    rules: {
      curly: ['error', 'multi-line'],
      'one-var': ['error', 'never'],
      'max-statements-per-line': ['error', { max: 1 }],
      'no-nested-ternary': 'error',
      'max-len': [
        'error',
        {
          code: 140,
          ignoreStrings: true,
          ignoreUrls: true,
          ignoreTemplateLiterals: true,
          ignoreRegExpLiterals: true,
        },
      ],
      'max-lines-per-function': ['error', { max: 80, skipBlankLines: true, skipComments: true }],
    },
  },
  {
    files: SOUNDING,
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-properties': ['error', { object: 'Math', property: 'pow', message: POWERS }],
      'no-restricted-syntax': ['error', { selector: "BinaryExpression[operator='**']", message: POWERS }],
    },
  },
  { files: ['**/*.vue'], rules: { 'max-lines': ['error', { max: 250 }] } },
  {
    files: ['web/**/*.{ts,vue}'],
    ignores: ['web/ui/store.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        { paths: [{ name: 'pinia', importNames: ['defineStore'], message: STORES }] },
      ],
    },
  },
  {
    files: [...PROCESSORS, '**/*.test.ts', 'tests/**'],
    rules: { 'max-lines-per-function': 'off' },
  },
);
