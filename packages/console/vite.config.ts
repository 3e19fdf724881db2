import { conditions, siteFiles } from '@kleidon/core';
import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';
import { compression } from 'vite-plugin-compression2';

const FIELDS = 'virtual:site-file-fields';

/** Gives the console the declarations of fields as data, so that it need not load what reads site files. */
const siteFileFields: Plugin = {
  name: 'site-file-fields',
  resolveId: (id) => (id === FIELDS ? `\0${FIELDS}` : null),
  load: (id) => {
    if (id !== `\0${FIELDS}`) return null;
    const declared = {
      site: siteFiles.siteDeclaration(),
      sections: siteFiles.sectionDeclarations(),
      conditionWords: conditions.CONDITION_WORDS,
      comparisonSigns: conditions.COMPARISON_SIGNS,
    };
    return `export default ${JSON.stringify(declared)};`;
  },
};

export default defineConfig({
  plugins: [
    siteFileFields,
    react(),
    compression({ include: /\.(?:js|css)$/, algorithms: ['gzip', 'brotliCompress'] }),
  ],
  // The editor and the components are most of it; the service serves them from this machine.
  build: {
    chunkSizeWarningLimit: 2500,
    target: 'es2023',
    // Compressing takes most of the time.
    rolldownOptions: { checks: { bundlerTimings: false } },
  },
});
