// Builds the client page's script and style, each as one file: package clientpage writes them into pages that need
// nothing else.
import react from '@vitejs/plugin-react'
import { defineConfig, type Plugin } from 'vite'

// The page brings the core along in another way.
function withoutModule(): Plugin {
  return {
    name: 'without-module',
    enforce: 'pre',
    resolveId: (id) => (id.endsWith('core.wasm?url') ? '\0no-module' : undefined),
    load: (id) => (id === '\0no-module' ? 'export default ""' : undefined),
  }
}

export default defineConfig({
  plugins: [withoutModule(), react()],
  publicDir: false,
  build: {
    target: 'es2023',
    outDir: 'dist/client',
    emptyOutDir: true,
    assetsInlineLimit: 1 << 20,
    cssCodeSplit: false,
    chunkSizeWarningLimit: 1500,
    rollupOptions: {
      input: 'src/client/main.tsx',
      output: { format: 'es', entryFileNames: 'client.js', assetFileNames: 'client.[ext]', inlineDynamicImports: true },
    },
  },
})
