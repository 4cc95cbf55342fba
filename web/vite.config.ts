import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [react()],
  resolve: { conditions: ['idrel-source', 'browser', 'module', 'import', 'default'] },
  build: { manifest: true, target: 'es2022', sourcemap: false, chunkSizeWarningLimit: 1600 },
  worker: { format: 'es' },
  server: { proxy: { '/api': 'http://127.0.0.1:4780' } },
});
