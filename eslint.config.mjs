import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import vue from 'eslint-plugin-vue';
import tseslint from 'typescript-eslint';

// The arrows of the house: a folder may import what stands below it, never above (docs/decisions.md).
const ORDER = [
  'web',
  'server',
  'demo',
  'core/formats',
  'core/check',
  'core/kit',
  'core/drop',
  'core/measure',
  'core/engine',
  'core/devices',
  'core/model',
];
const arrows = ORDER.map((folder, i) => ({
  files: [`${folder}/**/*.{ts,vue}`],
  ignores: ['**/*.test.ts'],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          ...ORDER.slice(0, i)
            .map((above) => ({
              regex: `(^|/)${above.replace('core/', '')}/`,
              message: `${folder} may not import from ${above}.`,
            }))
            .filter((p) => !exceptions(folder, p.message)),
          ...(folder.startsWith('core')
            ? [
                {
                  regex: '^(node:|vue|express|typeorm)',
                  message: 'The core is pure: no Node, no interface, no database.',
                },
              ]
            : []),
        ],
      },
    ],
  },
}));

/** The model's validation and constructors read the devices' tables, and a server never imports the web. */
function exceptions(folder, message) {
  return folder === 'core/model' && message.endsWith('from core/devices.');
}

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
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        setTimeout: 'readonly',
        clearTimeout: 'readonly',
        fetch: 'readonly',
        AbortSignal: 'readonly',
        Buffer: 'readonly',
        performance: 'readonly',
        URL: 'readonly',
      },
    },
  },
  ...arrows,
  prettier,
);
