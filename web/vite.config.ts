import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  build: { outDir: "dist", assetsDir: "assets", sourcemap: false, chunkSizeWarningLimit: 1200 },
  server: { proxy: { "/api": "http://127.0.0.1:8040" } },
  test: {
    css: false,
    projects: [
      // The core knows no page, so that its tests need none.
      { extends: true, test: { name: "core", include: ["src/core/**/*.test.ts"], environment: "node" } },
      {
        extends: true,
        test: {
          name: "screens",
          include: ["src/**/*.test.{ts,tsx}"],
          exclude: ["src/core/**"],
          environment: "jsdom",
          setupFiles: ["src/test-setup.ts"],
        },
      },
    ],
  },
});
