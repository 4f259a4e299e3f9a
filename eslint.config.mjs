import js from '@eslint/js';
import jsxA11y from 'eslint-plugin-jsx-a11y';
import reactHooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

export default tseslint.config(
  { ignores: ['public/**', 'dist', '.astro', '.clear-bell', 'node_modules', '**/*.astro'] },
  js.configs.recommended,
  ...tseslint.configs.strictTypeChecked,
  {
    languageOptions: {
      parserOptions: {
        projectService: { allowDefaultProject: ['eslint.config.mjs', '.dependency-cruiser.mjs'] },
        tsconfigRootDir: import.meta.dirname,
      },
    },
    rules: {
      '@typescript-eslint/restrict-template-expressions': [
        'error',
        { allowNumber: true, allowBoolean: true },
      ],
      '@typescript-eslint/consistent-type-imports': 'error',
      // What is imported for its types alone brings nothing along to the browser.
      '@typescript-eslint/no-import-type-side-effects': 'error',
      '@typescript-eslint/no-confusing-void-expression': ['error', { ignoreArrowShorthand: true }],
    },
  },
  {
    files: ['**/*.mjs'],
    ...tseslint.configs.disableTypeChecked,
  },
  {
    files: ['src/**/*.tsx'],
    ...jsxA11y.flatConfigs.recommended,
  },
  {
    files: ['src/**/*.tsx', 'src/{views,ui}/**/*.ts'],
    plugins: { 'react-hooks': reactHooks },
    rules: reactHooks.configs.recommended.rules,
  },
  {
    // Files one can live in: split by use case, not by size. What is data is as long as it is.
    files: ['src/**/*.{ts,tsx}'],
    ignores: ['src/demo/**'],
    rules: { 'max-lines': ['error', { max: 400 }] },
  },
  {
    // The state of an occurrence changes by the table of its moves alone (core/delivery/states.ts).
    files: ['src/server/**/*.ts'],
    ignores: ['src/server/database/migrations/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        ...['Literal[value=', 'TemplateElement[value.raw='].map((selector) => ({
          selector: `${selector}/UPDATE occurrences SET( |((?!WHERE)[^])*,\\s+)state = '|(SET|,)\\s+o\\.state = '/]`,
          message: 'Change it by a move: `moved` and `mayMove` of sends/stateStore.ts.',
        })),
      ],
    },
  },
  {
    // Nor a function longer than a screen. A migration is one list of statements.
    files: ['src/**/*.ts'],
    ignores: ['src/demo/**', 'src/standins/**', 'src/server/database/migrations/**'],
    rules: {
      'max-lines-per-function': ['error', { max: 80, skipBlankLines: true, skipComments: true }],
    },
  },
  {
    // A component says in one piece what is on the page: at most two screens of it.
    files: ['src/**/*.tsx'],
    rules: {
      'max-lines-per-function': ['error', { max: 150, skipBlankLines: true, skipComments: true }],
    },
  },
  {
    // Written by a program, a line for each endpoint.
    files: ['src/ui/endpoints.ts'],
    rules: { '@typescript-eslint/consistent-type-imports': 'off' },
  },
  {
    files: ['tests/**/*.ts', 'tests/**/*.tsx'],
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
    },
  },
);
