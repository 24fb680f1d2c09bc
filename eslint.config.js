// Lint: TypeScript's and Vue's recommended rules, and the one way imports go between the rooms.
import tseslint from 'typescript-eslint'
import vue from 'eslint-plugin-vue'

/** What a room may not import: other rooms by name, by path, and (for the core) anything with an interface. */
const rooms = ['app', 'server', 'player', 'media', 'standins', 'test', 'demo']
const mayUse = {
  core: [],
  media: [],
  player: [],
  standins: [],
  server: ['standins'],
  app: ['media', 'standins'],
}

const wall = (room) => ({
  files: [`${room}/**/*.{ts,vue}`],
  ignores: ['**/*.test.ts'],
  rules: {
    'no-restricted-imports': ['error', {
      patterns: [
        ...rooms.filter((r) => r !== room && !mayUse[room].includes(r)).map((r) => ({
          regex: `^(#${r}/|(\\.\\./)+${r}/|~~?/${r}/)`,
          message: `${room} may not import from ${r}: imports go core ← media, player, server, standins ← app.`,
        })),
        ...(room === 'core'
          ? [{ regex: '^(vue|nuxt|#imports|#app|dexie|element-plus|pinia|h3|mediabunny|node:)', message: 'The core knows no interface, no database, no media library and no files.' }]
          : []),
      ],
    }],
  },
})

export default tseslint.config(
  { ignores: ['.nuxt/**', '.output/**', '.build/**', 'public/**', 'node_modules/**', 'docs/**'] },
  ...tseslint.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    languageOptions: { parserOptions: { parser: tseslint.parser, extraFileExtensions: ['.vue'] } },
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-non-null-assertion': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_', caughtErrors: 'all' }],
      'no-empty': 'error',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'vue/no-v-html': 'error',
      // Layout is left to the writer; these rules are about line breaks only.
      'vue/max-attributes-per-line': 'off',
      'vue/singleline-html-element-content-newline': 'off',
      'vue/multiline-html-element-content-newline': 'off',
      'vue/html-self-closing': 'off',
      'vue/html-indent': 'off',
      'vue/first-attribute-linebreak': 'off',
      'vue/html-closing-bracket-newline': 'off',
      'vue/multi-word-component-names': 'off',
      'vue/attributes-order': 'off',
    },
  },
  ...Object.keys(mayUse).map(wall),
  { files: ['**/*.test.ts', 'test/**'], rules: { '@typescript-eslint/no-non-null-assertion': 'off' } },
)
