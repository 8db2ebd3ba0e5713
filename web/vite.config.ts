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
    rolldownOptions: {
      output: {
        // A place is one file, what places share another: a page asks for few files, and signing in for no editor.
        advancedChunks: {
          groups: [
            {
              name: "editor",
              test: /node_modules[\\/](@tiptap|prosemirror|orderedmap|rope-sequence|w3c-keyname|linkifyjs)/,
            },
            { name: "dragging", test: /node_modules[\\/]@dnd-kit/ },
            { name: "vendor", test: /node_modules[\\/]/ },
            { name: "shared", test: /src[\\/](shared|cloth|api)[\\/]/ },
          ],
        },
      },
    },
  },
});
