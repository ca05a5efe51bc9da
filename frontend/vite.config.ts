import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: {
    outDir: '../src/sign_shelf/static',
    emptyOutDir: true,
    assetsInlineLimit: 0,
    // What several views share is one file: a first visit asks for five files instead of thirty.
    rolldownOptions: { output: { codeSplitting: { groups: [{ name: 'shared', minShareCount: 3 }] } } },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8400' } },
})
