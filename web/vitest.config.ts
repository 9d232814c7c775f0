import react from '@vitejs/plugin-react'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [react()],
  test: {
    include: ['src/**/*.test.{ts,tsx}'],
    isolate: false, // what files share they set anew: the core is translated once
    setupFiles: ['src/page.setup.ts'],
    environmentOptions: { jsdom: { url: 'http://pump.test/p/p/direct/v' } },
  },
})
