import { defineConfig } from 'vite';

/** The service and its threads, each in a file or two: hundreds of modules take a second to load. */
export default defineConfig({
  ssr: { noExternal: true, external: ['better-sqlite3'], target: 'node' },
  build: {
    ssr: true,
    outDir: 'dist/service',
    target: 'node20',
    minify: false,
    sourcemap: true,
    rollupOptions: {
      input: [
        'dist/index.js',
        'dist/analysis/analysis-worker.js',
        'dist/gateway/marks/page-worker.js',
        'dist/probe/probe-worker.js',
      ],
      // In one folder: a thread is looked for beside the file that begins it.
      output: { entryFileNames: '[name].js', chunkFileNames: '[name]-[hash].js' },
    },
  },
});
