import { createHash } from 'node:crypto';
import { svelte } from '@sveltejs/vite-plugin-svelte';
import tailwindcss from '@tailwindcss/vite';
import subsetFont from 'subset-font';
import { defineConfig, type Plugin } from 'vite';
import { compression } from 'vite-plugin-compression2';

// What a page can show in its own fonts: every letter that people's names are written with in the West, all figures, units, and
// signs of print. Hinting is left out: no phone reads it. A font keeps the name that the whole one has, so whoever has the whole one
// keeps it.
const shown = [
  [0x20, 0x7e],
  [0xa0, 0xff],
  [0x152, 0x153],
  [0x2010, 0x203a],
  [0x20ac, 0x20ac],
  [0x2190, 0x2193],
  [0x2212, 0x2215],
]
  .map(([from, to]) => String.fromCodePoint(...Array.from({ length: to! - from! + 1 }, (_, i) => from! + i)))
  .join('');

const fontsCut: Plugin = {
  name: 'fonts-cut',
  async generateBundle(_, bundle) {
    for (const asset of Object.values(bundle))
      if (asset.type === 'asset' && asset.fileName.endsWith('.woff2'))
        asset.source = await subsetFont(Buffer.from(asset.source), shown, {
          targetFormat: 'woff2',
          noHinting: true,
        });
  },
};

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

// filesOfPage tells the worker which files the page is made of, and of which version they are.
const filesOfPage: Plugin = {
  name: 'files-of-page',
  generateBundle(_, bundle) {
    const all = Object.keys(bundle)
      .filter((name) => name.startsWith('assets/'))
      .map((name) => `/${name}`)
      .sort();
    const worker = bundle['standby.js'];
    if (worker?.type !== 'chunk') throw new Error('there is no standby.js');
    const version = createHash('sha256')
      .update(all.join() + worker.code)
      .digest('hex')
      .slice(0, 12);
    worker.code = `self.files = ${JSON.stringify({ version, all })};\n${worker.code}`;
  },
};

export default defineConfig({
  plugins: [tailwindcss(), svelte(), fontsCut, fontsFirst, filesOfPage, compression()], // gzip and brotli beside each file
  build: {
    target: 'es2022',
    assetsInlineLimit: 0,
    emptyOutDir: true,
    rollupOptions: {
      input: ['index.html', 'src/standby.ts'],
      // Where a worker stands says what it answers for: all of the page.
      output: { entryFileNames: (c) => (c.name === 'standby' ? '[name].js' : 'assets/[name]-[hash].js') },
    },
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8340' } },
});
