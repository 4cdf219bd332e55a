// Pages that only the tests open: the application's modules without its screens.
import { svelte } from '@sveltejs/vite-plugin-svelte';
import { defineConfig } from 'vite';

export default defineConfig({
  root: 'pages',
  plugins: [svelte()],
  logLevel: 'warn',
  build: {
    target: 'es2022',
    outDir: '../dist-pages',
    emptyOutDir: true,
    rollupOptions: { input: 'pages/logic.html' },
  },
});
