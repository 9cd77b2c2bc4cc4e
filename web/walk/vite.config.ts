/** The page's store as one file for Node, which tests/walk/ runs. */
import { defineConfig } from "vite";

export default defineConfig({
  resolve: { alias: { "@": new URL("../src", import.meta.url).pathname } },
  publicDir: false,
  ssr: { noExternal: true },
  build: {
    ssr: new URL("page.ts", import.meta.url).pathname,
    outDir: new URL("../dist-walk", import.meta.url).pathname,
    target: "node20",
    emptyOutDir: true,
  },
});
