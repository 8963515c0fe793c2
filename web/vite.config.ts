import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

export default defineConfig({
  plugins: [react()],
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
