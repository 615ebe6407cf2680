import { defineConfig } from 'vite';

// Three files of fixed names, which the program has inside of it.
export default defineConfig({
  base: './',
  build: {
    chunkSizeWarningLimit: 2000,
    modulePreload: false,
    emptyOutDir: true,
    rollupOptions: {
      output: { entryFileNames: 'page.js', assetFileNames: 'page.[ext]', inlineDynamicImports: true },
    },
  },
});
