// Bundles the page's script: node build.mjs FOLDER makes FOLDER/viewer.js; with --tests also the
// tests as modules, in FOLDER/unit and FOLDER/browser.
import { readdirSync } from "node:fs";
import { build } from "esbuild";

const folder = process.argv[2] ?? "build";
const common = { bundle: true, target: "es2020", logLevel: "warning" };
await build({
  ...common,
  entryPoints: ["src/main.ts"],
  outfile: `${folder}/viewer.js`,
  format: "iife",
  minify: true,
  legalComments: "inline",
  supported: { "inline-script": false }, // nothing in it may end the element that it stands in
});
if (process.argv.includes("--tests")) {
  for (const kind of ["unit", "browser"]) {
    await build({
      ...common,
      entryPoints: readdirSync(`tests/${kind}`)
        .filter((name) => name.endsWith(".test.ts"))
        .map((name) => `tests/${kind}/${name}`),
      outdir: `${folder}/${kind}`,
      outExtension: { ".js": ".mjs" },
      format: "esm",
      platform: "node",
      external: ["playwright-core", "axe-core"],
    });
  }
}
