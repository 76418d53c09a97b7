// The page of a watched campaign: WATCH is its address, SHAPE the surface file that is changed,
// CAMPAIGN the campaign file, SERVER the number of the process that serves.
import assert from "node:assert/strict";
import { readFileSync, writeFileSync } from "node:fs";
import { after, before, test } from "node:test";
import type { Browser, Page } from "playwright-core";
import type { Told } from "../../src/watching";
import { obstacles, opened, pixels } from "./browser";

let browser: Browser;
let page: Page;
let complaints: string[];
let requests: string[];
const base = process.env.WATCH ?? "";
const file = (name: string) => process.env[name] ?? "";

before(async () => {
  ({ browser, page, complaints, requests } = await opened(base));
});
after(async () => {
  await browser.close();
});

async function until(what: (s: Told) => boolean, why: string): Promise<Told> {
  const end = Date.now() + 60_000;
  for (;;) {
    const s = (await page.evaluate(() => window.dunefield?.live?.state)) as Told | undefined;
    if (s && what(s)) return s;
    if (Date.now() > end) assert.fail(`${why}: ${JSON.stringify(s)}`);
    await page.waitForTimeout(100);
  }
}

let cellsOfKept = 0;

test("the first try settles and is kept", async () => {
  const s = await until((t) => t.tries.length === 1, "a first try");
  assert.equal(s.tries[0]?.is_reference, true);
  assert.ok((s.present?.CD.mean ?? 0) > 0);
  cellsOfKept = s.cells;
});

test("a shape that is saved is meshed and run again, and told against what was kept", async () => {
  const before = await pixels(page);
  const text = readFileSync(file("SHAPE"), "utf8");
  writeFileSync(
    file("SHAPE"),
    text.replace(/vertex (\S+)/g, (_, x) => `vertex ${Number(x) * 1.2}`),
  );
  const s = await until((t) => t.tries.length === 2 && t.change !== null, "a second try");
  assert.ok(s.change?.CD?.value !== undefined);
  assert.notEqual(s.cells, cellsOfKept);
  assert.ok((s.seconds_since_change.picture ?? 99) < 30);
  await page.waitForFunction(() => (window.dunefield?.viewer?.names("vehicle").length ?? 0) > 0);
  assert.ok((await pixels(page)) !== before);
});

test("nothing scrolls, and the view takes most of the window", async () => {
  const { height, scrolled, frame } = await page.evaluate(() => ({
    height: window.innerHeight,
    scrolled: document.documentElement.scrollHeight,
    frame: document.querySelector(".view-frame")?.getBoundingClientRect().height ?? 0,
  }));
  assert.ok(scrolled <= height, `${scrolled} px high`);
  assert.ok(frame > 0.7 * height, `the view is ${frame} px high`);
});

test("planes and smoke are those of finished runs", async () => {
  const rest = () => page.evaluate(() => window.dunefield?.explore?.rest());
  await page.waitForFunction(() => (window.dunefield?.explore?.told.runs.length ?? 0) === 2);
  await page.click("#explore-plane-x");
  await rest();
  const scene = await page.evaluate(() => window.dunefield?.explore?.scene);
  assert.equal(scene?.looks.filter((l) => l.kind === "slice").length, 2);
  const one = await pixels(page);
  await page.getByLabel("side by side").selectOption("2");
  await rest();
  assert.notEqual(await pixels(page), one);
  assert.deepEqual(await page.locator(".pane-labels span").allTextContents(), [
    "present: as it is at 72 km/h",
    "kept: as it is at 72 km/h",
  ]);
});

test("an accessibility checker finds nothing", async () => {
  assert.deepEqual(await obstacles(page), []);
});

test("discarding goes back to the shape that was kept", async () => {
  const charts = () => requests.filter((r) => r.endsWith("/chart")).length;
  await page.selectOption(".chart-drawer select", "history");
  await page.waitForSelector(".chart-plots canvas");
  const before = charts();
  await page.click("#live-discard");
  const s = await until((t) => t.tries.length === 3, "a third try");
  await page.waitForFunction(() => (window.dunefield?.explore?.version ?? 0) > 1);
  await page.evaluate(() => window.dunefield?.explore?.rest());
  assert.ok(charts() > before, "charts go on with the flow");
  assert.equal(s.cells, cellsOfKept, "its mesh again"); // runs so short end at any drag
});

test("numbers that the campaign names and the speed are tried and kept", async () => {
  const input = page.getByLabel("air.density, kg/m3");
  await input.fill("1.3");
  await input.press("Enter");
  await until(
    (t) => t.wanted.settings["air.density"] === "1.3 kg/m3" && t.tries.length === 4,
    "a try",
  );
  await page.click("#live-keep");
  const s = await until((t) => t.tries[3]?.is_reference === true, "it is kept");
  assert.match(s.kept_text, /combination/);
  assert.match(s.kept_text, /air\.density.? = .1\.3 kg/);
});

test("what cannot be tried is said", async () => {
  await page.locator("#live-speed").fill("9000");
  await page.locator("#live-speed").press("Enter");
  await page.waitForFunction(() =>
    /540 km\/h/.test(document.querySelector(".live-error")?.textContent ?? ""),
  );
  complaints.length = 0; // the browser tells of the answer's status
});

test("an error in the campaign file is shown with its line, and mended", async () => {
  const good = readFileSync(file("CAMPAIGN"), "utf8");
  writeFileSync(file("CAMPAIGN"), `${good}\n[flow]\nnonsense = 3\n`);
  await until((t) => t.error !== "", "the error");
  assert.match((await page.locator(".live-error").textContent()) ?? "", /c\.toml:\d+/);
  writeFileSync(file("CAMPAIGN"), good);
  await until((t) => t.error === "", "the error goes");
});

test("a reload shows the same", async () => {
  const before = await until(() => true, "a state");
  await page.reload();
  await page.waitForFunction(() => Boolean(window.dunefield?.viewer));
  const s = await until(() => true, "a state");
  assert.ok(s.tries.length >= before.tries.length);
});

test("asks its own server for everything, and complains of nothing", () => {
  assert.deepEqual(
    requests.filter((r) => !r.startsWith(base) && !r.startsWith("data:")),
    [],
  );
  assert.deepEqual(complaints, []);
});

test("a lost server is said", async () => {
  process.kill(Number(process.env.SERVER), "SIGKILL");
  await page.waitForFunction(() =>
    /does not answer/.test(document.querySelector(".live-status")?.textContent ?? ""),
  );
});
