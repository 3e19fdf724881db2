import { defineConfig } from 'vite';

/** The command in one file: hundreds of modules take a second to load, each time it is called. */
export default defineConfig({
  ssr: { noExternal: true, external: ['@kleidon/service'], target: 'node' },
  build: {
    ssr: 'dist/main.js',
    outDir: 'dist/command',
    target: 'node20',
    minify: true,
    sourcemap: true,
    rollupOptions: { output: { entryFileNames: 'kleidon.js' } },
  },
});
