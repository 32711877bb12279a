import js from '@eslint/js'
import hooks from 'eslint-plugin-react-hooks'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['dist', 'src/api/schema.gen.ts', 'eslint.config.js'] },
  js.configs.recommended,
  ...ts.configs.recommendedTypeChecked,
  { languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } } },
  { plugins: { 'react-hooks': hooks }, rules: hooks.configs.recommended.rules },
  { rules: { '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }] } },
)
