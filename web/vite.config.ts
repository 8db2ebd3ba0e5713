import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  base: "/static/",
  plugins: [react(), tailwindcss()],
  build: {
    // Django renders index.html and serves the rest; nothing is inlined, so the content policy stays strict.
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
    chunkSizeWarningLimit: 1200,
  },
});
