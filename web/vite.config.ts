import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

/** Libraries that nearly every place needs: all but those of the editor and of dragging. */
const LIBRARIES =
  /node_modules[\\/](?!@tiptap|prosemirror|orderedmap|rope-sequence|w3c-keyname|linkifyjs|@dnd-kit)/;

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
        codeSplitting: {
          groups: [
            { name: "vendor", test: LIBRARIES, priority: 2 },
            { name: "shared", test: /src[\\/](cloth|api|shared(?![\\/]Sortable))[\\/]/, priority: 1 },
            { name: "editor", test: /node_modules[\\/](@tiptap|prosemirror)/ },
            { name: "dragging", test: /node_modules[\\/]@dnd-kit|src[\\/]shared[\\/]Sortable/ },
          ],
        },
      },
    },
  },
});
