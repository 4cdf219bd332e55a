import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';
import { compression } from 'vite-plugin-compression2';

export default defineConfig({
  plugins: [tailwindcss(), svelte(), compression()], // gzip and brotli beside each file
  build: { target: 'es2022', assetsInlineLimit: 0, emptyOutDir: true },
  server: { proxy: { '/api': 'http://127.0.0.1:8340' } },
});
