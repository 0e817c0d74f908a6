import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

const BASE = "/static/";

/** Puts the script that asks for data before all others; see src/early.ts. */
const early: Plugin = {
  name: "early",
  transformIndexHtml(_, { bundle }) {
    const made = Object.values(bundle ?? {}).find((file) => file.type === "chunk" && file.name === "early");
    const src = made ? BASE + made.fileName : "/src/early.ts";
    return [{ tag: "script", attrs: { type: "module", src }, injectTo: "head-prepend" }];
  },
};

export default defineConfig({
  base: BASE,
  plugins: [react(), early],
  build: {
    chunkSizeWarningLimit: 1600,
    rolldownOptions: {
      input: { index: "index.html", early: "src/early.ts" },
      // What many pages share comes in one file: a browser takes its time over each of fifty.
      output: { codeSplitting: { groups: [{ name: "shared", test: /node_modules/, minShareCount: 30 }] } },
    },
  },
});
