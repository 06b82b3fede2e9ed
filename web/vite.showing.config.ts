import react from "@vitejs/plugin-react";
import { defineConfig } from "vite";

/** The page of a showing: one script and one style, so that they fit into a file that needs no server. */
export default defineConfig({
  plugins: [react()],
  publicDir: "showing",
  define: { "process.env.NODE_ENV": '"production"' },
  build: {
    outDir: "dist/showing",
    cssCodeSplit: false,
    lib: {
      entry: "src/showing/page.tsx",
      formats: ["iife"],
      name: "ShowingPage",
      fileName: () => "showing.js",
      cssFileName: "showing",
    },
  },
});
