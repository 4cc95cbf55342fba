import { constants } from 'node:zlib';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { compression, defineAlgorithm } from 'vite-plugin-compression2';

export default defineConfig({
  plugins: [
    react(),
    // Packed once here, not by the server each time that a browser comes.
    compression({
      algorithms: [
        defineAlgorithm('brotliCompress', { params: { [constants.BROTLI_PARAM_QUALITY]: 9 } }),
        defineAlgorithm('gzip', { level: 9 }),
      ],
      include: /\.(js|css|svg|html)$/,
      threshold: 1024,
    }),
  ],
  resolve: { conditions: ['idrel-source', 'browser', 'module', 'import', 'default'] },
  build: {
    manifest: true,
    target: 'es2022',
    sourcemap: false,
    chunkSizeWarningLimit: 1600,
    // What many views share is one file: fifty small ones take a browser longer to ask for than to read.
    rolldownOptions: {
      output: {
        codeSplitting: { groups: [{ name: 'shared', minShareCount: 6, includeDependenciesRecursively: false }] },
      },
    },
  },
  worker: { format: 'es' },
  server: { proxy: { '/api': 'http://127.0.0.1:4780' } },
});
