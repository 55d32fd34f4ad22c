import tseslint from 'typescript-eslint'
import vue from 'eslint-plugin-vue'

export default tseslint.config(
  { ignores: ['**/dist/**', '**/node_modules/**', '.data/**', '.test-data/**'] },
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
      'max-lines': ['error', { max: 420, skipComments: true }],
      'vue/multi-word-component-names': 'off',
    },
  },
  {
    files: ['packages/*/src/**/*.{ts,vue}'],
    rules: { '@typescript-eslint/no-non-null-assertion': 'error' },
  },
  {
    // Tests speak to the server as any client would: what comes back has no type of ours.
    files: ['**/test/**/*.ts', 'e2e/**/*.ts', 'bench/**/*.ts'],
    rules: { '@typescript-eslint/no-explicit-any': 'off', '@typescript-eslint/no-unused-expressions': 'off', 'max-lines': 'off', 'no-console': 'off' },
  },
  { files: ['**/*.{js,mjs,cjs}'], rules: { 'no-console': 'off', '@typescript-eslint/no-require-imports': 'off' } },
)
