import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [react()],
  // The editor and the components are most of it; the service serves them from this machine.
  build: { chunkSizeWarningLimit: 2500, target: 'es2023' },
});
