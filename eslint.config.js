import prettier from 'eslint-config-prettier'
import js from '@eslint/js'
import globals from 'globals'
import ts from 'typescript-eslint'
import vue from 'eslint-plugin-vue'
import vueParser from 'vue-eslint-parser'

/** Arrows between the parts point one way: web and server use core, core uses nobody, web knows the server by HTTP only. */
const not = (...group) => ({
  'no-restricted-imports': ['error', { patterns: group.map((pattern) => ({ group: pattern.paths, message: pattern.why })) }]
})
const SERVER = {
  paths: ['@tin-harbor/server', '@tin-harbor/server/*', '**/server/src/**', '**/server/dist/**'],
  why: 'Only HTTP leads to the server.'
}
const WEB = { paths: ['@tin-harbor/web', '@tin-harbor/web/*', '**/web/src/**'], why: 'Nobody but the pages uses the pages.' }
const NODE = { paths: ['node:*', 'fs', 'path', 'worker_threads', 'crypto'], why: 'Core runs in a browser as well: no Node-only API.' }
const YUP = { paths: ['yup'], why: 'Schemas are made with the yup of core/src/input, whose words are ours.' }
const BY_PARSE = { property: 'validateSync', message: 'Inputs are checked by parseInput, which looks at their form first.' }
/** Words that say nothing: a variable is named for what it holds. Fields may be called so. */
const IDLE_NAME = '[name=/^(at|of)$/]'
const IDLE = [
  `VariableDeclarator > Identifier.id${IDLE_NAME}`,
  `ObjectPattern > Property > Identifier.value${IDLE_NAME}`,
  `ArrayPattern > Identifier${IDLE_NAME}`,
  `AssignmentPattern > Identifier.left${IDLE_NAME}`,
  `:matches(ArrowFunctionExpression, FunctionDeclaration, FunctionExpression) > Identifier.params${IDLE_NAME}`,
  `TSParameterProperty > Identifier${IDLE_NAME}`
].map((selector) => ({ selector, message: 'Name it for what it holds.' }))
const FRAMEWORK = {
  paths: ['vue', 'vue-router', 'pinia', 'element-plus', 'express', 'sequelize', 'mariadb'],
  why: 'Core has no interface code, no database.'
}

export default ts.config(
  { ignores: ['core/kernel/**', '**/dist/**', '**/node_modules/**', '.data/**', '.bench/**', '.stamps/**'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/no-explicit-any': 'error',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'no-restricted-syntax': ['error', ...IDLE],
      'no-console': 'error'
    }
  },
  {
    files: ['core/src/**/*.ts'],
    rules: {
      ...not(SERVER, WEB, NODE, FRAMEWORK, YUP),
      'no-restricted-properties': [
        'error',
        BY_PARSE,
        { object: 'Math', property: 'random', message: 'Randomness comes in as a seed.' },
        { object: 'Date', property: 'now', message: 'Core has no clock of its own.' }
      ]
    }
  },
  { files: ['core/src/input/*.ts'], rules: { ...not(SERVER, WEB, NODE, FRAMEWORK), 'no-restricted-properties': 'off' } },
  { files: ['server/src/**/*.ts'], rules: { ...not(WEB, YUP), 'no-restricted-properties': ['error', BY_PARSE] } },
  {
    files: ['web/src/**/*.{ts,vue}'],
    languageOptions: { globals: globals.browser },
    rules: {
      ...not(SERVER, NODE, YUP),
      'no-restricted-globals': ['error', { name: 'fetch', message: 'The server is reached through web/src/api.' }]
    }
  },
  { files: ['web/src/api/**/*.ts'], rules: { 'no-restricted-globals': 'off' } },
  {
    files: ['**/*.vue'],
    languageOptions: { parser: vueParser, parserOptions: { parser: ts.parser, extraFileExtensions: ['.vue'] } },
    rules: {
      'vue/block-order': ['error', { order: ['script', 'template', 'style'] }],
      'vue/require-default-prop': 'off'
    }
  },
  {
    files: ['scripts/**/*.mjs', 'docs/examples/*.mjs', '*.js'],
    languageOptions: { globals: { ...globals.node, ...globals.browser } },
    rules: { 'no-console': 'off' }
  },
  {
    files: ['**/test/**/*.{ts,mjs}', 'e2e/**/*.ts'],
    languageOptions: { globals: { ...globals.node, ...globals.browser } },
    rules: { '@typescript-eslint/no-explicit-any': 'off', 'vue/one-component-per-file': 'off' }
  },
  // Layout is Prettier's, which leaves comments alone.
  prettier,
  { rules: { 'max-len': ['error', { code: 140, ignoreStrings: true, ignoreTemplateLiterals: true, ignoreRegExpLiterals: true }] } },
  { files: ['core/src/places/places-data.ts'], rules: { 'max-len': 'off' } },
  // What is longer is cut where it changes subject; more is said by an object whose fields have names.
  {
    files: ['core/src/**/*.ts', 'server/src/**/*.ts', 'web/src/**/*.{ts,vue}', 'scripts/**/*.mjs', 'e2e/**/*.ts'],
    rules: {
      'max-params': ['error', 6],
      'max-lines-per-function': ['error', { max: 100, skipBlankLines: true, skipComments: true }],
      'max-lines': ['error', { max: 450, skipBlankLines: true, skipComments: true }]
    }
  },
  // Longer than that today; none may be added, and each goes as its room is made anew.
  {
    files: [
      'core/src/forecast/survey.ts',
      'core/src/market/day.ts',
      'core/src/tape/{build,world-card}.ts',
      'core/src/targeting/compile.ts',
      'server/src/lines/routes.ts',
      'web/src/composables/use-line-draft.ts',
      'web/src/views/line/LinePage.vue',
      'web/src/views/market/{MarketView.vue,columns.ts}',
      'scripts/truth.mjs',
      'scripts/bench/{asking,forecast}.mjs'
    ],
    rules: { 'max-params': ['error', 8], 'max-lines-per-function': ['error', { max: 240 }], 'max-lines': ['error', { max: 560 }] }
  },
  { files: ['e2e/**/*.ts'], rules: { 'max-lines-per-function': 'off' } }
)
