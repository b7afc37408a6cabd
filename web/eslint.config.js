import prettier from 'eslint-config-prettier'
import vueI18n from '@intlify/eslint-plugin-vue-i18n'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['dist', 'src/api/schema.ts'] },
  ...ts.configs.recommendedTypeChecked,
  ...vue.configs['flat/recommended'],
  {
    languageOptions: {
      parserOptions: {
        parser: ts.parser,
        project: './tsconfig.eslint.json',
        tsconfigRootDir: import.meta.dirname,
        extraFileExtensions: ['.vue'],
      },
    },
  },
  { files: ['**/*.js'], ...ts.configs.disableTypeChecked },
  {
    rules: {
      'vue/multi-word-component-names': 'off',
      'vue/require-default-prop': 'off',
      'no-console': 'error',
    },
  },
  {
    files: ['src/**/*.vue', 'src/**/*.ts'],
    plugins: { '@intlify/vue-i18n': vueI18n },
    settings: {
      'vue-i18n': { localeDir: './src/locales/*.json', messageSyntaxVersion: '^11.0.0' },
    },
    rules: {
      '@intlify/vue-i18n/no-missing-keys': 'error',
      '@intlify/vue-i18n/valid-message-syntax': 'error',
      '@intlify/vue-i18n/no-raw-text': [
        'error',
        {
          attributes: {
            '/.+/': ['title', 'label', 'aria-label', 'placeholder', 'hint', 'alt', 'text', 'act'],
          },
          // Units and signs are the same in every language.
          ignorePattern: String.raw`^(?:[^A-Za-z]|\b(?:mm|cm|m|g|kg|N|kPa|C|RH|h|min|s|J|Esc|Enter|Backspace|[A-Za-z])\b)*$`,
        },
      ],
      'no-restricted-syntax': [
        'error',
        {
          selector: 'Literal[value=/^[A-Z][a-z]+ [a-z]+.* [a-z]+/]',
          message: 'A sentence for people stands in src/locales/en.json.',
        },
        {
          selector: 'TemplateElement[value.raw=/[a-z]{2,} [a-z]{2,}/]',
          message: 'A sentence for people stands in src/locales/en.json.',
        },
      ],
    },
  },
  prettier,
)
