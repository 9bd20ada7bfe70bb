// What a reader trips over is found here; how it is laid out is Prettier's.
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import globals from 'globals'
import typescript from 'typescript-eslint'

export default typescript.config(
  { ignores: ['dist', 'node_modules', 'src/api/schema.ts'] },
  ...typescript.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.{ts,vue}'],
    languageOptions: {
      globals: globals.browser,
      parserOptions: { parser: typescript.parser, tsconfigRootDir: import.meta.dirname },
    },
  },
  {
    // what looks at types sees components as scripts.js wrote them down: in each of them it would work out the whole program anew
    files: ['**/*.ts'],
    extends: [typescript.configs.recommendedTypeCheckedOnly],
    languageOptions: { parserOptions: { projectService: true } },
    rules: {
      '@typescript-eslint/no-redundant-type-constituents': 'off',
      '@typescript-eslint/no-unsafe-argument': 'off',
      '@typescript-eslint/no-unsafe-assignment': 'off',
      '@typescript-eslint/no-unsafe-call': 'off',
      '@typescript-eslint/no-unsafe-member-access': 'off',
      '@typescript-eslint/no-unsafe-return': 'off',
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: false }], // what a key or a button does may take its time
      '@typescript-eslint/require-await': 'off', // an undo is a promise, also where nothing has to be waited for
    },
  },
  prettier,
  {
    files: ['**/*.{ts,vue}'],
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
      'vue/multi-word-component-names': 'off', // a view is named as its tab is
      'vue/max-len': [
        'error',
        {
          code: 120,
          template: 120,
          ignoreStrings: true,
          ignoreTemplateLiterals: true,
          ignoreUrls: true,
          ignoreHTMLAttributeValues: true,
          ignoreHTMLTextContents: true,
        },
      ],
    },
  },
  {
    files: ['src/**/*.{ts,vue}'],
    ignores: ['src/api/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: "CallExpression[callee.name='fetch']",
          message: 'The server is asked through api/client alone, its data kept by vue-query.',
        },
      ],
    },
  },
  {
    files: ['.scripts/**'],
    rules: { '@typescript-eslint/no-unused-vars': 'off' }, // what only a template uses is looked for in the component itself
  },
)
