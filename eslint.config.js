// Lint: TypeScript's and Vue's recommended rules, and the one way imports go between the rooms.
import tseslint from 'typescript-eslint'
import vue from 'eslint-plugin-vue'
import prettier from 'eslint-config-prettier'

/** What a room may not import: other rooms by name, by path, and (for the core) anything with an interface. */
const rooms = ['app', 'server', 'player', 'media', 'standins', 'test', 'demo']
const mayUse = {
  core: [],
  media: [],
  player: [],
  standins: [],
  server: [],
  app: ['media', 'standins', 'player'],
}

/** Packages that the core may use: arithmetic and checks, nothing that needs a browser, a server or a disk. */
const coreUses = [
  'd3-array',
  'd3-dsv',
  'ajv',
  '@sinclair/typebox',
  'fast-deep-equal',
  'diff',
  'perfect-freehand',
  'fastest-levenshtein',
  'saxes',
]

const wall = (room) => ({
  files: [`${room}/**/*.{ts,vue}`],
  ignores: ['**/*.test.ts'],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          ...rooms
            .filter((r) => r !== room && !mayUse[room].includes(r))
            .map((r) => ({
              regex: `^(#${r}/|(\\.\\./)+${r}/|~~?/${r}/)`,
              message: `${room} may not import from ${r}: imports go core ← media, player, server, standins ← app.`,
            })),
          ...(room === 'core'
            ? [
                {
                  regex: `^(?!\\.{1,2}/|(${coreUses.join('|')})$)`,
                  message: `The core uses nothing but ${coreUses.join(', ')}: no interface, no database, no media library and no files.`,
                },
              ]
            : []),
        ],
      },
    ],
  },
})

/**
 * A list spread into a call is as many arguments as it has entries, and one that somebody else sends breaks the call.
 * @param {string} callee selects the calls @param {string} instead what to use
 */
const spread = (callee, instead) => ({
  selector: `CallExpression[${callee}] > SpreadElement`,
  message: `A long list breaks this call (as many arguments as entries): use ${instead}.`,
})

export default tseslint.config(
  { ignores: ['.nuxt/**', '.output/**', '.build/**', 'public/**', 'node_modules/**', 'docs/**'] },
  ...tseslint.configs.recommended,
  ...vue.configs['flat/recommended'],
  // How a line is broken is Prettier's.
  prettier,
  {
    languageOptions: { parserOptions: { parser: tseslint.parser, extraFileExtensions: ['.vue'] } },
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-non-null-assertion': 'error',
      '@typescript-eslint/no-unused-vars': [
        'error',
        { argsIgnorePattern: '^_', varsIgnorePattern: '^_', caughtErrors: 'all' },
      ],
      'no-empty': 'error',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'vue/no-v-html': 'error',
      'vue/multi-word-component-names': 'off',
      'vue/attributes-order': 'off',
    },
  },
  ...Object.keys(mayUse).map(wall),
  {
    files: ['{core,media,player,server,standins,app}/**/*.{ts,vue}'],
    ignores: ['**/*.test.ts'],
    rules: { 'no-restricted-syntax': ['error', spread("callee.object.name='Math'", 'max and min of d3-array')] },
  },
  {
    files: ['server/**/*.ts'],
    ignores: ['**/*.test.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        spread("callee.object.name='Math'", 'max and min of d3-array'),
        spread('callee.property.name=/^(push|unshift)$/', 'a loop'),
      ],
    },
  },
  { files: ['**/*.test.ts', 'test/**'], rules: { '@typescript-eslint/no-non-null-assertion': 'off' } },
  {
    files: ['test/*.e2e.ts', 'test/person.ts', 'test/engine/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: "NewExpression[callee.name='Promise'] CallExpression[callee.name='setTimeout']",
          message: 'Wait for what is meant (expect.poll, see, atRest); where time itself is tested, letPass.',
        },
      ],
    },
  },
)
