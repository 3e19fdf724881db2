import hooks from 'eslint-plugin-react-hooks';
import { defineConfig, globalIgnores } from 'eslint/config';
import ts from 'typescript-eslint';

export default defineConfig(
  globalIgnores(['**/dist/', '**/node_modules/', 'packages/api/src/generated.ts']),
  {
    files: ['**/*.ts', '**/*.tsx'],
    extends: [ts.configs.strictTypeChecked, ts.configs.stylisticTypeChecked],
    languageOptions: {
      parserOptions: {
        project: ['./packages/*/tsconfig.json', './tsconfig.jest.json'],
        tsconfigRootDir: import.meta.dirname,
      },
    },
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      '@typescript-eslint/no-confusing-void-expression': [
        'error',
        { ignoreArrowShorthand: true, ignoreVoidOperator: true },
      ],
      '@typescript-eslint/consistent-type-definitions': ['error', 'interface'],
      '@typescript-eslint/explicit-module-boundary-types': 'off',
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_' },
      ],
      '@typescript-eslint/dot-notation': 'off',
      // Handlers are passed on; none of them uses `this`.
      '@typescript-eslint/unbound-method': 'off',
      '@typescript-eslint/no-meaningless-void-operator': 'off',
      '@typescript-eslint/no-empty-function': 'off',
      '@typescript-eslint/no-misused-spread': 'off',
      '@typescript-eslint/no-unsafe-class-instance-assignment': 'off',
      'no-console': 'error',
    },
  },
  {
    files: ['packages/console/src/**/*.ts', 'packages/console/src/**/*.tsx'],
    extends: [hooks.configs.flat.recommended],
    rules: { 'react-hooks/incompatible-library': 'off' },
  },
);
