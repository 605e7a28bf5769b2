import { svelte } from "@sveltejs/vite-plugin-svelte";
import tailwindcss from "@tailwindcss/vite";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [tailwindcss(), svelte()],
  build: { outDir: "../server/dist", emptyOutDir: false, assetsInlineLimit: 0 },
  server: { proxy: { "/api": `http://127.0.0.1:${process.env.PORT ?? 8787}` } },
});
