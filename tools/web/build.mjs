// Makes src/uncus/deliver/web/viewer.js: the viewer and three.js as one classic script that runs from a file on disk.
import { build } from "esbuild";
import { copyFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";

const here = dirname(fileURLToPath(import.meta.url));
const out = process.argv[2] ?? join(here, "../../src/uncus/deliver/web");
await build({
  absWorkingDir: here,
  entryPoints: ["viewer.mjs"],
  outfile: join(out, "viewer.js"),
  bundle: true,
  minify: true,
  format: "iife",
  target: "es2020",
  charset: "ascii",
  legalComments: "inline",
});
copyFileSync(join(here, "node_modules/three/LICENSE"), join(out, "three-LICENSE.txt"));
