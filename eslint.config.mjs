import ts from 'typescript-eslint'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'

/** Names of the DOM, of Node and of timers that core must do without. */
const HOST_NAMES = [
  'window',
  'document',
  'navigator',
  'self',
  'postMessage',
  'fetch',
  'XMLHttpRequest',
  'Worker',
  'ImageData',
  'OffscreenCanvas',
  'HTMLElement',
  'localStorage',
  'requestAnimationFrame',
  'setTimeout',
  'setInterval',
  'performance',
  'process',
  'Buffer',
  'require',
  '__dirname',
  'global',
  'console',
]

export default ts.config(
  {
    ignores: [
      'node_modules',
      '.nuxt',
      '.output',
      'dist',
      'test-results',
      'core/kernels/generated',
      'app/stage/generated',
      'core/kernels/assembly',
    ],
  },
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  // How code is laid out is the formatter's.
  prettier,
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: ts.parser } } },
  {
    rules: {
      'no-undef': 'off',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'prefer-const': 'error',
      'one-var': ['error', 'never'],
      'no-nested-ternary': 'error',
      // Words for people, and shaders, are not broken.
      'max-len': [
        'error',
        {
          code: 120,
          ignoreStrings: true,
          ignoreTemplateLiterals: true,
          ignoreRegExpLiterals: true,
          ignoreUrls: true,
          ignorePattern: '^\\s*:aria-label=',
        },
      ],
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', caughtErrors: 'none' },
      ],
      '@typescript-eslint/no-unused-expressions': 'off',
      'vue/multi-word-component-names': 'off',
      'vue/max-attributes-per-line': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/attributes-order': 'off',
      'vue/require-default-prop': 'off',
    },
  },
  {
    files: ['core/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          // What three-mesh-bvh takes and gives; nothing that draws.
          paths: [
            {
              name: 'three',
              allowImportNames: [
                'BufferAttribute',
                'BufferGeometry',
                'DoubleSide',
                'FrontSide',
                'Ray',
                'Vector3',
                'Box3',
                'FloatType',
                'Matrix3',
                'Matrix4',
              ],
              message: 'core knows no scene.',
            },
          ],
          patterns: [
            {
              group: [
                'vue',
                'vue-*',
                '@vue/*',
                '@vue-flow/*',
                '@vueuse/*',
                'pinia',
                '@pinia/*',
                'nuxt',
                '#imports',
                '#app',
              ],
              message: 'core knows no interface.',
            },
            // Readers of pictures, which know no scene either.
            { regex: '^three/(?!examples/jsm/loaders/(EXR|HDR)Loader\\.js$)', message: 'core knows no scene.' },
            {
              group: [
                'node:*',
                'fs',
                'path',
                'os',
                'crypto',
                'worker_threads',
                'child_process',
                'util',
                'url',
                'stream',
              ],
              message: 'core runs without Node.',
            },
            {
              group: ['**/app/**', '**/server/**', '**/cli/**', '**/demo/**', '#demo/*'],
              message: 'core uses nobody.',
            },
          ],
        },
      ],
      'no-restricted-globals': ['error', ...HOST_NAMES],
    },
  },
)
