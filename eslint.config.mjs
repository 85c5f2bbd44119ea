import hooks from 'eslint-plugin-react-hooks';
import globals from 'globals';
import tseslint from 'typescript-eslint';

export default tseslint.config(
  { ignores: ['node_modules', '.next', 'dist', '.demo-data', 'next-env.d.ts'] },
  ...tseslint.configs.recommended,
  {
    files: ['**/*.{ts,tsx}'],
    extends: [tseslint.configs.recommendedTypeCheckedOnly],
    languageOptions: { parserOptions: { projectService: true } },
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'error',
      // A name that begins with _ is taken out of an object on purpose, so that the rest of it lacks it.
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/require-await': 'off',
      '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }],
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
    },
  },
  { files: ['src/ui/**', 'src/app/**'], ...hooks.configs.flat['recommended-latest'] },
  { files: ['**/*.mjs'], languageOptions: { globals: globals.node } },
  { rules: { 'no-control-regex': 'error', eqeqeq: 'error' } },
);
