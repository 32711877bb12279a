/// <reference types="vitest/config" />
import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'
import { VitePWA } from 'vite-plugin-pwa'

const ON_A_DEVICE = ['src/device/**/*.test.{ts,tsx}', 'src/features/visits/**/*.test.{ts,tsx}']
const TESTED = {
  environment: 'jsdom',
  include: ['src/**/*.test.{ts,tsx}'],
  setupFiles: ['src/test/setup.ts'],
  // No verdict on how busy the machine is: types and lint are checked beside them.
  testTimeout: 30_000,
}

export default defineConfig({
  plugins: [
    react(),
    tailwindcss(),
    // The application's own files on the device, so that a visit opens and goes on without a signal.
    VitePWA({
      injectRegister: false,
      manifest: false,
      filename: 'sw.js',
      scope: '/',
      workbox: {
        globPatterns: ['app/*.{js,css,woff2}'],
        globIgnores: ['**/*.html'],
        navigateFallback: null,
        inlineWorkboxRuntime: true,
        clientsClaim: true,
        skipWaiting: true,
        modifyURLPrefix: { 'app/': '/static/app/' },
        runtimeCaching: [
          {
            urlPattern: ({ request, url }) =>
              request.mode === 'navigate' && !/^\/(admin|sign-|answer|calendar|api|static)/.test(url.pathname),
            handler: 'NetworkFirst',
            options: {
              cacheName: 'shell',
              networkTimeoutSeconds: 3,
              plugins: [
                {
                  // One page for every address; a page that led to the sign-in is not it.
                  cacheKeyWillBeUsed: () => Promise.resolve('/visit'),
                  cacheWillUpdate: ({ response }) =>
                    Promise.resolve(response.ok && !response.redirected ? response : null),
                },
              ],
            },
          },
        ],
      },
    }),
  ],
  base: '/static/',
  // In the place of this the server puts what a page's styles are known by.
  html: { cspNonce: '__NONCE__' },
  build: {
    outDir: 'dist',
    assetsDir: 'app',
    emptyOutDir: true,
    rolldownOptions: {
      output: {
        // What several pages share is fetched in few pieces: a request each would cost more than it spares.
        codeSplitting: {
          groups: [
            { name: 'libraries', test: /node_modules/, minShareCount: 3 },
            { name: 'shared', test: /src[\\/]/, minShareCount: 3 },
          ],
        },
      },
    },
  },
  server: { port: 5173, proxy: { '/api': 'http://127.0.0.1:8000' } },
  test: {
    projects: [
      // What keeps something on the device has a device of its own.
      { extends: true, test: { ...TESTED, name: 'device', include: ON_A_DEVICE } },
      // The rest shares one browser-like world a worker: making it takes longer than most of these tests.
      { extends: true, test: { ...TESTED, name: 'pages', exclude: ON_A_DEVICE, isolate: false, unstubGlobals: true } },
    ],
  },
})
