import { createReadStream, createWriteStream, readdirSync } from "node:fs";
import { pipeline } from "node:stream/promises";
import { createGzip } from "node:zlib";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

// The server sends scripts and styles compressed; they are compressed once, here.
function gzip(): Plugin {
  return {
    name: "gzip",
    apply: "build",
    async closeBundle() {
      for (const name of readdirSync("dist/assets").filter((n) => /\.(js|css)$/.test(n))) {
        const path = `dist/assets/${name}`;
        await pipeline(
          createReadStream(path),
          createGzip({ level: 9 }),
          createWriteStream(`${path}.gz`),
        );
      }
    },
  };
}

export default defineConfig({
  plugins: [react(), gzip()],
  build: {
    outDir: "dist",
    emptyOutDir: true,
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
    target: "es2022",
  },
  server: { proxy: { "/api": "http://127.0.0.1:8420" } },
});
