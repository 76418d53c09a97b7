// The page that looks at finished runs: EXPLORE is its address, TOOL the program, FOLDER where it
// was started.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { existsSync, statSync } from "node:fs";
import { after, before, test } from "node:test";
import type { Browser, Page } from "playwright-core";
import { obstacles, opened, pixels } from "./browser";

let browser: Browser;
let page: Page;
let complaints: string[];
let requests: string[];
const base = process.env.EXPLORE ?? "";

before(async () => {
  ({ browser, page, complaints, requests } = await opened(base));
  await rest();
});
after(async () => {
  await browser.close();
});

const rest = () =>
  page.evaluate(async () => {
    await new Promise((next) => setTimeout(next, 100));
    await window.dunefield?.explore?.rest();
  });
const scene = () => page.evaluate(() => window.dunefield?.explore?.scene);

test("a plane follows its handle, and what it shows is new", async () => {
  const first = await pixels(page);
  const box = await page.locator(".handle").first().boundingBox();
  assert.ok(box);
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let i = 1; i <= 5; ++i) await page.mouse.move(x - 4 * i, y + 4 * i);
  await page.mouse.up();
  await rest();
  const plane = (await scene())?.looks[0];
  assert.ok(plane?.kind === "slice" && Math.abs(plane.at) > 0.01, JSON.stringify(plane));
  assert.notEqual(await pixels(page), first);
});

test("the arrow keys move it, too, and undo takes it back", async () => {
  const before = (await scene())?.looks[0];
  await page.locator(".handle").first().focus();
  await page.keyboard.press("ArrowLeft");
  await rest();
  const moved = (await scene())?.looks[0];
  assert.notDeepEqual(moved, before);
  await page.keyboard.press("Control+z");
  await rest();
  assert.deepEqual((await scene())?.looks[0], before);
});

test("smoke goes through a place that is clicked", async () => {
  await page.click("#explore-place");
  const canvas = await page.locator(".view-canvas canvas").boundingBox();
  assert.ok(canvas);
  await page.mouse.click(canvas.x + canvas.width / 2, canvas.y + canvas.height / 2);
  await rest();
  const smoke = (await scene())?.looks.find((l) => l.kind === "smoke");
  assert.ok(smoke, "there is smoke");
  assert.equal(await page.locator(".handle").count(), 2);
});

test("a part is hidden by its tick", async () => {
  const full = await pixels(page);
  await page.getByLabel("ball <b>").uncheck();
  await rest();
  assert.deepEqual((await scene())?.hidden, ["ball <b>"]);
  assert.notEqual(await pixels(page), full);
  await page.getByLabel("ball <b>").check();
  await rest();
});

test("a wrong quantity is refused in one line, and the page goes on", async () => {
  const answer = await page.evaluate(async () => {
    const body = JSON.stringify({ run: 0, kind: "slice", words: "y = 0, no such thing" });
    const r = await fetch(`${window.location.pathname}look`, { method: "POST", body });
    return { status: r.status, text: await r.text() };
  });
  assert.equal(answer.status, 400);
  assert.ok(!answer.text.trim().includes("\n"), answer.text);
  complaints.length = 0; // the browser's own word on it
});

test("charts of the runs in view are drawn", async () => {
  await page.selectOption(".chart-drawer select", "section");
  await page.waitForSelector(".chart-plots canvas");
});

test("the words that it gives draw the same with the tool", async () => {
  await page.locator("#explore-command").scrollIntoViewIfNeeded();
  const command = (await page.textContent(".words")) ?? "";
  assert.match(command, /^dunefield look ".*as-it-is_72-kmh" --surface "Cp"/);
  const file = `${process.env.FOLDER}/by-words.png`;
  const line = command.replace(/^dunefield/, `"${process.env.TOOL}"`);
  execFileSync("/bin/sh", ["-c", `${line} --into "${file}"`], { cwd: process.env.FOLDER });
  assert.ok(existsSync(file) && statSync(file).size > 10_000);
});

test("its address brings it back", async () => {
  const was = await scene();
  await page.reload();
  await page.waitForFunction(() => Boolean(window.dunefield?.explore));
  await rest();
  assert.deepEqual((await scene())?.looks, was?.looks);
});

test("an accessibility checker finds nothing", async () => {
  assert.deepEqual(await obstacles(page), []);
});

test("on a small screen the view comes first, and the page scrolls", async () => {
  const small = await opened(base, { width: 400 });
  try {
    const {
      top,
      height,
      page: all,
    } = await small.page.evaluate(() => {
      const r = document.querySelector(".view-frame")?.getBoundingClientRect();
      return { top: r?.top ?? 1e9, height: r?.height ?? 0, page: document.body.scrollHeight };
    });
    assert.ok(top < 250 && height > 300, `at ${top}, ${height} px high`);
    assert.ok(all > 1000, `the page is ${all} px high`);
  } finally {
    await small.browser.close();
  }
});

test("it asks its own server and nobody else, and complains of nothing", () => {
  const origin = new URL(base).origin;
  for (const r of requests) assert.ok(r.startsWith(origin) || r.startsWith("blob:"), r);
  assert.deepEqual(complaints, []);
});
