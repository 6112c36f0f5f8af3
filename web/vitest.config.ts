import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vitest/config'

/** Only for logic that a browser journey cannot reach case by case; the interface itself is tested through Cargo. */
export default defineConfig({
  plugins: [vue()],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  test: {
    environment: 'happy-dom',
    include: ['src/**/*.spec.ts'],
    server: { deps: { inline: ['vuetify'] } },
  },
})
