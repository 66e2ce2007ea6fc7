import vue from '@vitejs/plugin-vue';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig, type Plugin } from 'vite';
import { compression } from 'vite-plugin-compression2';

const isolate = {
  'Cross-Origin-Opener-Policy': 'same-origin',
  'Cross-Origin-Embedder-Policy': 'require-corp',
};
/**
 * What most screens need comes in a few files: each file more is a request more, for a browser that was here before,
 * too. Everything else is split by screen.
 */
const CHUNKS = [
  { name: 'vue', test: /node_modules\/(@?vue|vue-router|pinia|@vueuse|@lucide|@headlessui|@tanstack)\b/ },
  { name: 'base', test: /\/(web\/(ui|document|api|app\/(?!SheetHost))|contract)\b/ },
  { name: 'shared', test: /\/web\/features\//, minShareCount: 2 },
];

/**
 * The page itself makes no sound: the kernels ship with the worker and the worklet, which are built without this. (Asked
 * for buffers all the same, the page would run the ones in TypeScript.)
 */
const withoutKernels: Plugin = {
  name: 'without-kernels',
  apply: 'build',
  enforce: 'pre',
  load: (id) => (id.endsWith('/kernels/wasm.gen.ts') ? 'export const BINARIES = [];' : null),
};

export default defineConfig({
  plugins: [withoutKernels, vue(), tailwindcss(), compression({ algorithms: ['brotliCompress', 'gzip'] })],
  build: {
    outDir: 'dist/client',
    emptyOutDir: true,
    // by which the server knows what the first screen takes
    manifest: true,
    // all of it is 9 kB on the wire: a sheet for each screen only holds the screen up
    cssCodeSplit: false,
    target: 'es2022',
    sourcemap: false,
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
    rolldownOptions: { output: { codeSplitting: { groups: CHUNKS } } },
  },
  worker: { format: 'es' },
  server: {
    host: '127.0.0.1',
    port: 5173,
    strictPort: true,
    watch: { ignored: ['**/.data/**', '**/dist/**'] },
    headers: isolate,
    proxy: { '/api': 'http://127.0.0.1:4310' },
  },
});
