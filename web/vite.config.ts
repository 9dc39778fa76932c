import react from '@vitejs/plugin-react';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  plugins: [react()],
  css: {
    preprocessorOptions: { scss: { quietDeps: true, silenceDeprecations: ['import', 'global-builtin', 'color-functions', 'if-function', 'legacy-js-api'] } },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8380' } },
  test: { setupFiles: ['src/tests/setup.ts'] },
  // The content security policy lets no inlined module in.
  build: { assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
});
