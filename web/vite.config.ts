import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

/** What signing in needs, and so all else; other libraries go with the screens that need them. */
const BASE =
  /vite[\\/]preload-helper|node_modules[\\/](react|react-dom|scheduler|react-router|cookie|set-cookie-parser|openapi-fetch|@tanstack[\\/](react-query|query-core))[\\/]|src[\\/](api|shared[\\/](ui|session|query|keys|typed|placeHere|TextLink|standin[\\/]whom))/;

/** Libraries that one screen or a few need: each goes with them. */
const OF_FEW =
  /@tiptap|prosemirror|orderedmap|rope-sequence|w3c-keyname|linkifyjs|@dnd-kit|@codemirror|@lezer|@marijn|style-mod|crelt|react-easy-crop|[\\/]diff[\\/]|@simplewebauthn|react-hook-form|react-dropzone|attr-accept|file-selector|@internationalized|react-aria|react-stately|@react-types/;
const LIBRARIES = new RegExp(`node_modules[\\\\/](?!.*(?:${OF_FEW.source}))`);

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
            { name: "base", test: BASE, priority: 3 },
            { name: "vendor", test: LIBRARIES, priority: 2 },
            {
              name: "shared",
              test: /src[\\/](cloth|shared(?![\\/](Sortable|Proof|CutPortrait|NewPassword|form\.|dates[\\/](DateParts|Month))))[\\/]/,
              priority: 1,
            },
            { name: "editor", test: /node_modules[\\/](@tiptap|prosemirror)/ },
            { name: "sentences", test: /node_modules[\\/](@codemirror|@lezer|@marijn|style-mod|crelt)/ },
            {
              name: "dates",
              test: /node_modules[\\/](@internationalized|react-aria|react-stately|@react-types)|src[\\/]shared[\\/]dates/,
            },
            { name: "dragging", test: /node_modules[\\/]@dnd-kit|src[\\/]shared[\\/]Sortable/ },
          ],
        },
      },
    },
  },
});
