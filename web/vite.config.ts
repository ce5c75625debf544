import { fileURLToPath } from 'node:url'
import vue from '@vitejs/plugin-vue'
import Components from 'unplugin-vue-components/vite'
import { ElementPlusResolver } from 'unplugin-vue-components/resolvers'
import { defineConfig } from 'vitest/config'

const SERVER = 'http://127.0.0.1:8470' // where `make dev` starts it

export default defineConfig({
  plugins: [
    vue(),
    Components({
      dts: 'components.d.ts',
      dirs: [],
      resolvers: [ElementPlusResolver({ importStyle: process.env.VITEST ? false : 'css' })],
    }),
  ],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  server: {
    host: '127.0.0.1',
    port: 5173,
    strictPort: true,
    // the server answers its own pages alone: what comes through here speaks in its name
    proxy: Object.fromEntries(
      ['/api', '/open'].map((path) => [
        path,
        { target: SERVER, changeOrigin: true, headers: { origin: SERVER }, autoRewrite: true },
      ]),
    ),
  },
  build: { target: 'es2022', chunkSizeWarningLimit: 1500 },
  test: {
    environment: 'happy-dom',
    include: ['src/**/*.test.ts'],
    server: { deps: { inline: ['element-plus'] } },
  },
})
