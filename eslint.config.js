import tseslint from 'typescript-eslint'
import regexp from 'eslint-plugin-regexp'
import vue from 'eslint-plugin-vue'

export default tseslint.config(
  { ignores: ['**/dist/**', '.types/**', 'packages/*/build/**', '**/node_modules/**', '.data/**', '.test-data/**'] },
  ...tseslint.configs.recommended,
  ...vue.configs['flat/essential'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: tseslint.parser } } },
  {
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'no-empty': ['error', { allowEmptyCatch: false }],
      eqeqeq: 'error',
      'no-console': 'error',
      'max-lines': ['error', { max: 700, skipComments: true }],
      'vue/multi-word-component-names': 'off',
    },
  },
  {
    // A file of more than 400 lines is two files.
    files: ['packages/{core,content,collector,simulator,cli}/src/**/*.ts'],
    rules: { 'max-lines': ['error', { max: 400, skipComments: true }] },
  },
  // One file of all texts, so that wording is reviewed in one place.
  { files: ['packages/web/src/messages/en.ts'], rules: { 'max-lines': 'off' } },
  {
    // The formatter breaks code; comments it leaves alone.
    files: ['**/*.ts'],
    rules: {
      'max-len': [
        'error',
        { code: 120, ignoreStrings: true, ignoreTemplateLiterals: true, ignoreRegExpLiterals: true, ignoreUrls: true },
      ],
    },
  },
  {
    files: ['packages/*/src/**/*.{ts,vue}'],
    plugins: { regexp },
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'error',
      // Whatever a pattern is put to comes from outside: its time grows with the length of the text, no faster.
      'regexp/no-super-linear-backtracking': ['error', { report: 'potential' }],
      'regexp/no-super-linear-move': ['error', { report: 'potential' }],
    },
  },
  {
    // Tests speak to the server as any client would: what comes back has no type of ours.
    files: ['**/test/**/*.ts', 'attack/**/*.ts', 'e2e/**/*.ts', 'bench/**/*.ts'],
    rules: {
      '@typescript-eslint/no-explicit-any': 'off',
      '@typescript-eslint/no-unused-expressions': 'off',
      'max-lines': 'off',
      'no-console': 'off',
      // A test is left out only where a program that it needs is not installed: `(there ? it : it.skip)(…)`.
      'no-restricted-syntax': [
        'error',
        {
          selector: "CallExpression[callee.object.name=/^(it|describe)$/][callee.property.name='skip']",
          message: 'A test that does not run says why: (there ? it : it.skip)(…)',
        },
      ],
    },
  },
  { files: ['packages/*/examples/*.ts'], rules: { 'no-console': 'off' } },
  { files: ['**/*.{js,mjs,cjs}'], rules: { 'no-console': 'off', '@typescript-eslint/no-require-imports': 'off' } },
)
