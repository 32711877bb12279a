import js from '@eslint/js'
import boundaries from 'eslint-plugin-boundaries'
import hooks from 'eslint-plugin-react-hooks'
import ts from 'typescript-eslint'

/** The rooms of src, the lowest first: a room imports only lower ones, and no feature another. */
const ROOMS = [['api'], ['session'], ['lib', 'drawing', 'ui'], ['device'], ['records'], ['features'], ['app']]
const elements = ROOMS.flat().map((room) =>
  room === 'features'
    ? { type: 'features', pattern: 'src/features/*', capture: ['feature'] }
    : { type: room, pattern: `src/${room}` },
)
const policies = ROOMS.flatMap((rooms, level) =>
  rooms.map((room) => ({
    from: { element: { type: room } },
    allow: {
      to: [
        ...ROOMS.slice(0, level)
          .flat()
          .map((lower) => ({ element: { type: lower } })),
        ...(room === 'features'
          ? [{ element: { type: 'features', captured: { feature: '{{ from.element.captured.feature }}' } } }]
          : rooms.map((beside) => ({ element: { type: beside } }))),
      ],
    },
  })),
)

export default ts.config(
  { ignores: ['dist', 'public', 'src/api/schema.gen.ts', 'eslint.config.js'] },
  js.configs.recommended,
  ...ts.configs.recommendedTypeChecked,
  { languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } } },
  { plugins: { 'react-hooks': hooks }, rules: hooks.configs.recommended.rules },
  { rules: { 'max-len': ['error', { code: 120 }] } },
  { rules: { '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }] } },
  {
    plugins: { boundaries },
    ignores: ['src/test/**'],
    settings: {
      'boundaries/elements': elements,
      'boundaries/include': ['src/**/*'],
      'boundaries/ignore': ['src/test/**'],
      'import/resolver': { node: { extensions: ['.ts', '.tsx', '.json', '.css'] } },
    },
    rules: { 'boundaries/dependencies': ['error', { default: 'disallow', policies }] },
  },
)
