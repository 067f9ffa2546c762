import hooks from 'eslint-plugin-react-hooks'
import { defineConfig } from 'eslint/config'
import tseslint from 'typescript-eslint'

export default defineConfig(
  { ignores: ['dist', 'src/api/schema.gen.d.ts'] },
  tseslint.configs.recommended,
  hooks.configs.flat.recommended,
  // What people type may be Arabic or Hebrew: a field of text says that its direction is that of its text.
  {
    files: ['**/*.tsx'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector:
            'JSXOpeningElement[name.name=/^(input|textarea)$/]:not(:has(> JSXAttribute[name.name="dir"]))' +
            ':not(:has(> JSXAttribute[name.name="type"][value.value=/^(number|checkbox|radio|file|range|password|date)$/]))',
          message: 'A field of text wants dir="auto".',
        },
      ],
    },
  },
  // What is longer falls into parts.
  { ignores: ['**/*.test.*'], rules: { 'max-lines-per-function': ['error', { max: 80 }] } },
)
