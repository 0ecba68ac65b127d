import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  base: "/static/",
  plugins: [react()],
  build: { outDir: "dist", emptyOutDir: true, target: "es2022", assetsInlineLimit: 0 },
  test: {
    environment: "jsdom",
    environmentOptions: { jsdom: { url: "http://127.0.0.1/" } },
    pool: "threads",
    isolate: false,
    fileParallelism: false,
    unstubGlobals: true,
    restoreMocks: true,
  },
  server: { proxy: { "/api": "http://127.0.0.1:8000" } },
});
