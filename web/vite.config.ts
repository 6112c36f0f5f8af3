import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import { compression, defineAlgorithm } from 'vite-plugin-compression2'
import vuetify from 'vite-plugin-vuetify'

export default defineConfig({
  plugins: [
    vue(),
    vuetify({ autoImport: true }),
    // The server embeds the packed files; it compresses nothing of the front end while running.
    compression({
      include: /\.(html|js|css|svg)$/,
      algorithms: [defineAlgorithm('brotliCompress'), defineAlgorithm('gzip', { level: 9 })],
    }),
  ],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: { target: 'es2022', assetsInlineLimit: 0 },
  // The guide is made of the documents beside the front end.
  server: {
    fs: { allow: ['..'] },
    proxy: { '/api': 'http://127.0.0.1:8460', '/readyz': 'http://127.0.0.1:8460' },
  },
})
