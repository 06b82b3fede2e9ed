import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

export default defineConfig({
  plugins: [react()],
  // How long a test takes is the machine’s affair.
  test: { testTimeout: 60_000 },
  build: { outDir: "dist", chunkSizeWarningLimit: 1200 },
});
