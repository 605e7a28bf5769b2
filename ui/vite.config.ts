import { svelte } from "@sveltejs/vite-plugin-svelte";
import tailwindcss from "@tailwindcss/vite";
import { defineConfig } from "vite";

const server = `http://127.0.0.1:${process.env.PORT ?? 8787}`;

export default defineConfig({
  plugins: [tailwindcss(), svelte()],
  build: { outDir: "../server/dist", emptyOutDir: false, assetsInlineLimit: 0, chunkSizeWarningLimit: 900 },
  // The server answers to its own address alone, so requests through Vite are given that.
  server: { fs: { allow: [".."] }, proxy: { "/api": { target: server, changeOrigin: true, headers: { origin: server } } } },
});
