import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import tseslint from 'typescript-eslint'

export default tseslint.config(
  { ignores: ['dist', 'src/api/schema.d.ts', 'components.d.ts'] },
  ...tseslint.configs.recommended,
  ...vue.configs['flat/recommended'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: tseslint.parser } } },
  // a name says what it holds
  { rules: { 'no-console': 'error', 'vue/require-default-prop': 'off', 'id-denylist': ['error', 'one'] } },
  {
    // every control is one of Element Plus's; what it lacks is wrapped once in ui/
    files: ['src/**/*.vue'],
    ignores: ['src/ui/**'],
    rules: {
      'vue/no-restricted-html-elements': [
        'error',
        ...['button', 'select', 'input', 'textarea', 'table'].map((element) => ({
          element,
          message: 'Take the component of Element Plus, or what wraps it in ui/.',
        })),
      ],
    },
  },
  prettier,
)
