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
      // The door of an area only names what lies behind it: what nobody asks for there is not taken along.
      treeshake: { moduleSideEffects: (id: string) => !/\/web\/src\/[a-z]+\/index\.ts$/.test(id) },
      output: {
        codeSplitting: {
          groups: [
            {
              name: 'markdown',
              test: /node_modules\/(micromark|mdast-util|unist-util|hast-util|remark|unified|vfile|markdown-table)/,
              priority: 1,
            },
            {
              name: 'shared',
              // Of others' code what draws everywhere: what reads texts or draws charts stays with those who need it.
              test: /^(?!.*node_modules)|node_modules\/(@mantine|@floating-ui|@reduxjs|react|dayjs|@tabler)/,
              minShareCount: 3,
            },
          ],
        },
      },
    },
  },
  worker: { format: 'es' },
  server: { proxy: { '/api': 'http://127.0.0.1:4780' } },
});
