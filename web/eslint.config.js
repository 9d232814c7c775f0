import js from '@eslint/js'
import hooks from 'eslint-plugin-react-hooks'
import ts from 'typescript-eslint'

const stores = [
  ...['Session', 'Transport', 'Habits', 'Aim', 'Eye', 'Shape', 'Presence', 'Mechanism'],
  ...['View', 'TimelineView', 'Plan', 'Order', 'Taking', 'Line', 'Menu'],
]

export default ts.config(
  { ignores: ['src/api/schema.gen.ts', 'src/core/core.gen.ts', 'src/core/wasm_exec.js'] }, // made by program; comes with Go
  js.configs.recommended,
  ts.configs.strict,
  {
    plugins: { 'react-hooks': hooks },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      '@typescript-eslint/no-non-null-assertion': 'off',
      'no-restricted-syntax': [
        'error',
        {
          selector: `CallExpression[callee.name=/^use(${stores.join('|')})$/][arguments.length=0]`,
          message: 'Take of the store what is needed: with all of it the component is drawn anew whatever changes.',
        },
      ],
    },
  },
)
