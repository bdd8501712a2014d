import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

export default defineConfig({
  // whatever path it stands under: the page's base says
  base: './',
  plugins: [react(), tailwindcss()],
  resolve: { conditions: ['@zetopsis/source', 'module', 'browser', 'development|production'] },
  build: { target: 'es2022', sourcemap: false, chunkSizeWarningLimit: 800 },
});
