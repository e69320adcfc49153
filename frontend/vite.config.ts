import react from '@vitejs/plugin-react';
import { defineConfig } from 'vitest/config';

export default defineConfig(({ command }) => ({
  // Django serves what is built below /static/; the development server stands at the root.
  base: command === 'build' ? '/static/' : '/',
  plugins: [react()],
  build: { assetsDir: 'app', assetsInlineLimit: 0, chunkSizeWarningLimit: 800 },
  server: { proxy: { '/api': 'http://127.0.0.1:8000' } },
  test: {
    environment: 'jsdom',
    setupFiles: './src/tests/setup.ts',
    restoreMocks: true,
    // Typing letter by letter takes seconds where two cores have other work as well.
    testTimeout: 20_000,
  },
}));
