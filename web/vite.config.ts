import tailwind from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { brotliCompressSync, constants } from 'node:zlib'
import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { defineConfig, type Plugin } from 'vite'

// The server sends files compressed as they lie: compressing once, here, is
// better than at every request.
function brotli(): Plugin {
  return {
    name: 'brotli',
    apply: 'build',
    closeBundle() {
      const walk = (dir: string) => {
        for (const name of readdirSync(dir)) {
          const path = join(dir, name)
          if (statSync(path).isDirectory()) walk(path)
          else if (/\.(js|css|wasm|svg)$/.test(name)) {
            const data = readFileSync(path)
            const quality = name.endsWith('.wasm') ? 9 : 11
            writeFileSync(
              path + '.br',
              brotliCompressSync(data, { params: { [constants.BROTLI_PARAM_QUALITY]: quality } }),
            )
          }
        }
      }
      walk('dist')
    },
  }
}

export default defineConfig({
  plugins: [react(), tailwind(), brotli()],
  build: { target: 'es2023', chunkSizeWarningLimit: 1500, assetsInlineLimit: 0 },
  server: { proxy: { '/api': 'http://127.0.0.1:7741' } },
})
