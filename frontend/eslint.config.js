import { readdirSync } from 'node:fs';

import prettier from 'eslint-config-prettier';
import a11y from 'eslint-plugin-jsx-a11y';
import hooks from 'eslint-plugin-react-hooks';
import tseslint from 'typescript-eslint';

// Every folder there is a feature.
const features = readdirSync(new URL('src/features', import.meta.url));
const others = (feature) => features.filter((other) => other !== feature);
const forbid = (group) => ({
  'no-restricted-imports': ['error', { patterns: [{ group, message: 'The wrong direction.' }] }],
});

export default tseslint.config(
  { ignores: ['dist', 'src/api/schema.d.ts', '*.config.*'] },
  ...tseslint.configs.strictTypeChecked,
  {
    languageOptions: {
      parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname },
    },
    rules: {
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      '@typescript-eslint/no-confusing-void-expression': ['error', { ignoreArrowShorthand: true }],
    },
  },
  // A feature knows the API and what is shared, never another feature's insides or the application.
  ...features.map((feature) => ({
    files: [`src/features/${feature}/**`],
    rules: forbid(['../../app/*', ...others(feature).map((other) => `../${other}/*`)]),
  })),
  { files: ['src/shared/**'], rules: forbid(['../features/*', '../app/*', '../api/*']) },
  { files: ['src/api/**'], rules: forbid(['../features/*', '../app/*', '../shared/*']) },
  hooks.configs.flat['recommended-latest'],
  a11y.flatConfigs.recommended,
  prettier,
);
