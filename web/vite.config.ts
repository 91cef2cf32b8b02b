import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { assetsInlineLimit: 0, sourcemap: false },
  test: { environmentOptions: { happyDOM: { url: "http://heliant.test/" } } },
  server: { host: "127.0.0.1", proxy: { "/api": "http://127.0.0.1:8400" } },
});
