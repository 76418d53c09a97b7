// Bundles the page's script: node build.mjs FOLDER makes FOLDER/viewer.js. With "unit" or "browser"
// after it, instead the tests of that kind as modules into FOLDER.
import { readdirSync } from "node:fs";
import { build } from "esbuild";

const [folder = "build", tests] = process.argv.slice(2);
const common = { bundle: true, target: "es2020", logLevel: "warning" };
if (tests)
  await build({
    ...common,
    entryPoints: readdirSync(`tests/${tests}`)
      .filter((name) => name.endsWith(".test.ts"))
      .map((name) => `tests/${tests}/${name}`),
    outdir: folder,
    outExtension: { ".js": ".mjs" },
    format: "esm",
    platform: "node",
    external: ["playwright-core"],
  });
else
  await build({
    ...common,
    entryPoints: ["src/main.ts"],
    outfile: `${folder}/viewer.js`,
    format: "iife",
    minify: true,
    legalComments: "inline",
    supported: { "inline-script": false }, // nothing in it may end the element that it stands in
  });
