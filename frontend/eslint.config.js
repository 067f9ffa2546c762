import hooks from 'eslint-plugin-react-hooks'
import { defineConfig } from 'eslint/config'
import tseslint from 'typescript-eslint'

export default defineConfig(
  { ignores: ['dist', 'src/api/schema.gen.d.ts'] },
  tseslint.configs.recommended,
  hooks.configs.flat.recommended,
  // What is longer falls into parts.
  { ignores: ['**/*.test.*'], rules: { 'max-lines-per-function': ['error', { max: 80 }] } },
)
