import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

/** The arrows of the house point one way; each package may import only what is listed for it. */
const MAY_IMPORT = {
  core: [],
  connectors: ['@loom/core'],
  server: ['@loom/core', '@loom/connectors'],
  web: ['@loom/core', '@loom/server'],
  standins: [],
}
const PACKAGES = [
  '@loom/core',
  '@loom/connectors',
  '@loom/server',
  '@loom/web',
  '@loom/standins',
  '@loom/e2e',
]

const houseRule = ([name, allowed]) => {
  const forbidden = PACKAGES.filter(p => !allowed.includes(p) && p !== `@loom/${name}`)
  const patterns = [
    {
      group: forbidden.flatMap(p => [p, `${p}/*`]),
      message: `${name} must not import this (docs/architecture.md).`,
    },
    { group: ['../../../*/src/*', '../../*/src/*'], message: 'Import the package, not its files.' },
  ]
  if (name === 'core')
    patterns.push({
      group: ['node:*', 'vue', 'hono', 'sequelize'],
      message: 'core has no I/O and no interface.',
    })
  // The interface may know the shape of the server's API, never its code.
  if (name === 'web')
    patterns.push({
      group: ['@loom/server', '@loom/server/*'],
      allowTypeImports: true,
      message: 'Only types.',
    })
  return {
    files: [`packages/${name}/src/**/*.{ts,vue}`],
    rules: { '@typescript-eslint/no-restricted-imports': ['error', { patterns }] },
  }
}

export default ts.config(
  { ignores: ['**/dist/**', '**/node_modules/**', '.data/**'] },
  ...ts.configs.strict,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: ts.parser } },
  },
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { ignoreRestSiblings: true, varsIgnorePattern: '^_' }],
      '@typescript-eslint/no-non-null-assertion': 'error',
      '@typescript-eslint/no-invalid-void-type': 'off',
      '@typescript-eslint/no-dynamic-delete': 'off',
      'vue/multi-word-component-names': 'error',
      'vue/require-default-prop': 'off',
      'vue/attributes-order': 'off',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'no-console': 'off',
    },
  },
  {
    // Nothing runs unwatched: `Background` starts what nobody waits for.
    files: ['packages/{core,connectors,server,standins}/src/**/*.ts'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      '@typescript-eslint/no-floating-promises': ['error', { ignoreVoid: false }],
      '@typescript-eslint/no-misused-promises': 'error',
    },
  },
  {
    // Answers are looked at as they come over the wire.
    files: ['packages/*/test/**', 'packages/e2e/**'],
    rules: { '@typescript-eslint/no-explicit-any': 'off', '@typescript-eslint/no-unused-expressions': 'off' },
  },
  {
    files: ['**/*.mjs', '**/*.js'],
    languageOptions: { globals: { process: 'readonly', console: 'readonly' } },
  },
  ...Object.entries(MAY_IMPORT).map(houseRule),
  prettier,
)
