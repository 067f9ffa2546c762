import hooks from 'eslint-plugin-react-hooks'
import { defineConfig } from 'eslint/config'
import tseslint from 'typescript-eslint'

export default defineConfig(
  { ignores: ['dist', 'src/api/schema.gen.d.ts'] },
  tseslint.configs.recommended,
  hooks.configs.flat.recommended,
)
