import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig, type Plugin } from 'vite';
import { compression } from 'vite-plugin-compression2';

// fontsFirst has the fonts asked for with the page, not once its styles have come.
const fontsFirst: Plugin = {
  name: 'fonts-first',
  transformIndexHtml: {
    order: 'post',
    handler: (_, { bundle }) =>
      Object.keys(bundle ?? {})
        .filter((name) => name.endsWith('.woff2'))
        .map((name) => ({
          tag: 'link',
          attrs: { rel: 'preload', href: `/${name}`, as: 'font', type: 'font/woff2', crossorigin: true },
          injectTo: 'head',
        })),
  },
};

export default defineConfig({
  plugins: [tailwindcss(), svelte(), fontsFirst, compression()], // gzip and brotli beside each file
  build: { target: 'es2022', assetsInlineLimit: 0, emptyOutDir: true },
  server: { proxy: { '/api': 'http://127.0.0.1:8340' } },
});
