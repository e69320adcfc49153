import prettier from 'eslint-config-prettier';
import importX from 'eslint-plugin-import-x';
import a11y from 'eslint-plugin-jsx-a11y';
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

const features = ['session', 'shelf', 'bench'];

export default tseslint.config(
  { ignores: ['dist', 'src/api/schema.d.ts', '*.config.*'] },
  ...tseslint.configs.strictTypeChecked,
  {
    languageOptions: {
      parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname },
    },
    plugins: { 'import-x': importX },
    rules: {
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      '@typescript-eslint/no-confusing-void-expression': ['error', { ignoreArrowShorthand: true }],
      // A feature knows the API and what is shared, never the inside of another feature.
      'import-x/no-restricted-paths': [
        'error',
        {
          zones: [
            ...features.map((feature) => ({
              target: `./src/features/${feature}`,
              from: './src/features',
              except: [`./${feature}`],
            })),
            { target: './src/features', from: './src/app' },
            { target: './src/shared', from: ['./src/features', './src/app', './src/api'] },
            { target: './src/api', from: ['./src/features', './src/app', './src/shared'] },
          ],
        },
      ],
    },
  },
  hooks.configs.flat['recommended-latest'],
  a11y.flatConfigs.recommended,
  prettier,
);
