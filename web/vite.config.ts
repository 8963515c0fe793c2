import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { brotliCompressSync, constants } from "node:zlib";

import babel from "@rolldown/plugin-babel";
import react, { reactCompilerPreset } from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Compresses what is large as well as it can be, once: the server hands these out, and would have less time. */
function compressed(): Plugin {
  return {
    name: "compressed",
    writeBundle({ dir }) {
      for (const name of readdirSync(`${dir}/assets`)) {
        if (!/\.(js|css|wasm)$/.test(name)) continue;
        const content = readFileSync(`${dir}/assets/${name}`);
        const params = {
          [constants.BROTLI_PARAM_QUALITY]: constants.BROTLI_MAX_QUALITY,
          [constants.BROTLI_PARAM_SIZE_HINT]: content.length,
        };
        writeFileSync(`${dir}/assets/${name}.br`, brotliCompressSync(content, { params }));
      }
    },
  };
}

export default defineConfig({
  // The compiler remembers what has not changed: while a hand moves, only what moves is made anew.
  plugins: [react(), babel({ presets: [reactCompilerPreset()] }), compressed()],
  worker: { format: "es" },
  build: {
    target: "es2023",
    // Every file keeps its name's hash; nothing is inlined, so that the content policy can stay strict.
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
    chunkSizeWarningLimit: 600,
  },
  server: { proxy: { "/api": "http://127.0.0.1:8080" } },
});
