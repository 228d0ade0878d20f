import { readdirSync, readFileSync } from "node:fs";
import react from "@vitejs/plugin-react";
import { defineConfig } from "vitest/config";

/** What PDFs need beside the program: the standard fonts, and tables and decoders for what few of them hold. */
const ofPdfs = {
  name: "of-pdfs",
  generateBundle(this: { emitFile: (file: object) => void }) {
    for (const folder of ["standard_fonts", "cmaps", "wasm"])
      for (const name of readdirSync(`node_modules/pdfjs-dist/${folder}`))
        if (!name.endsWith(".wasm"))
          this.emitFile({
            type: "asset",
            fileName: `assets/pdfjs/${folder}/${name}`,
            source: readFileSync(`node_modules/pdfjs-dist/${folder}/${name}`),
          });
  },
};

export default defineConfig({
  plugins: [react(), ofPdfs],
  build: {
    outDir: "dist",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
    target: "es2022",
  },
  test: { setupFiles: ["src/testing/setup.ts"] },
  server: { proxy: { "/api": "http://127.0.0.1:8420" } },
});
