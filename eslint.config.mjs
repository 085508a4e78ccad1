import ts from 'typescript-eslint'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'

// Components. All other code is read by a linter that knows none (`.oxlintrc.json`), and so is what it can read of them.
export default ts.config(
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
)
