import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import vuetify from 'vite-plugin-vuetify'
import { defineConfig } from 'vitest/config'

/** Logic and single components case by case, against answers made up on the spot; whole tasks are tested through Cargo in a real browser. */
export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  // The guide is made of the documents beside the front end.
  server: { fs: { allow: ['..'] } },
  test: {
    environment: 'happy-dom',
    // A busy machine mounts a whole editor in seconds; what hangs still fails.
    testTimeout: 30_000,
    include: ['src/**/*.spec.ts'],
    server: { deps: { inline: ['vuetify'] } },
  },
})
