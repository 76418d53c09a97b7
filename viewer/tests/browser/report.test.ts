// The report in a browser: REPORT is its file, of a ball as it is and with a fin, whose part is
// called "ball <b>".
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { after, before, test } from "node:test";
import type { Browser, Page } from "playwright-core";
import { drawn, obstacles, opened, pixels } from "./browser";

const url = `file://${process.env.REPORT}`;
let browser: Browser;
let page: Page;
let complaints: string[];
let requests: string[];

before(async () => {
  ({ browser, page, complaints, requests } = await opened(url));
});
after(async () => {
  await browser.close();
});

const state = () =>
  page.evaluate(() => {
    const s = window.dunefield?.viewer?.state;
    return s && { layout: s.layout, surface: s.surface, hidden: [...s.hiddenParts], view: s.view };
  });
const label = (text: string) => page.getByLabel(text, { exact: true }).first();

test("opens without a complaint, and asks nobody for anything", async () => {
  assert.deepEqual(complaints, []);
  assert.deepEqual(
    requests.filter((r) => !r.startsWith("file:") && !r.startsWith("data:")),
    [],
  );
});

test("hostile names are text", async () => {
  assert.ok(await page.getByText("ball <b>").first().isVisible());
});

test("a part that is hidden is gone from the picture, and comes back", async () => {
  const whole = await pixels(page);
  await page.getByRole("checkbox", { name: "ball <b>" }).first().uncheck();
  assert.deepEqual((await state())?.hidden, ["ball <b>"]);
  assert.ok((await pixels(page)) !== whole);
  await page.getByRole("checkbox", { name: "ball <b>" }).first().check();
  assert.ok((await pixels(page)) === whole, "it looks as before");
});

test("another quantity, another range and steps change the colours", async () => {
  const before = await pixels(page);
  await label("on the vehicle").selectOption("y+");
  assert.equal((await state())?.surface, "y+");
  const other = await pixels(page);
  assert.ok(other !== before);
  const range = page.getByRole("group", { name: "range of y+" });
  await range.getByLabel("to").fill("5");
  await range.getByLabel("to").press("Enter");
  const narrow = await pixels(page);
  assert.ok(narrow !== other);
  await range.getByLabel("steps").selectOption("5");
  assert.ok((await pixels(page)) !== narrow);
  await range.getByLabel("from").fill("9");
  await range.getByLabel("from").press("Enter");
  assert.match((await page.locator(".view-status").textContent()) ?? "", /range is empty/);
  await label("on the vehicle").selectOption("Cp");
});

test("slices, smoke and volumes are shown and hidden", async () => {
  for (const name of ["slice y = 0 m", "from ahead"]) {
    const box = page.getByRole("checkbox", { name }).first();
    const before = await pixels(page);
    await box.click();
    assert.ok((await pixels(page)) !== before, name);
    await box.click();
    assert.ok((await pixels(page)) === before, `${name} looks as before`);
  }
});

test("two runs stand side by side with one camera", async () => {
  const one = await pixels(page);
  await label("side by side").selectOption("2");
  assert.equal((await state())?.layout, 2);
  assert.ok((await pixels(page)) !== one);
  assert.equal(await page.locator(".pane-labels span").count(), 2);
  await label("side by side").selectOption("1");
});

test("named views, the keyboard and the pointer turn it", async () => {
  const pose = () => page.evaluate(() => window.dunefield?.viewer?.stage.pose());
  await page.getByRole("button", { name: "rear", exact: true }).click();
  const rear = await pose();
  await page.getByRole("button", { name: "three-quarter", exact: true }).click();
  const first = await pose();
  assert.notDeepEqual(first, rear);
  const canvas = page.locator(".view-canvas canvas");
  await canvas.focus();
  await page.keyboard.press("ArrowLeft");
  assert.notDeepEqual(await pose(), first);
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("+");
  assert.ok(((await pose())?.zoom ?? 0) > 1);
  const box = await canvas.boundingBox();
  assert.ok(box);
  const turned = await pose();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 60, box.y + box.height / 2, { steps: 4 });
  await page.mouse.up();
  assert.notDeepEqual(await pose(), turned);
});

test("the value under the pointer is told, and distances are measured", async () => {
  await page.getByRole("button", { name: "left", exact: true }).click();
  await drawn(page);
  const canvas = page.locator(".view-canvas canvas");
  await canvas.scrollIntoViewIfNeeded();
  const box = await canvas.boundingBox();
  assert.ok(box);
  const x = box.x + box.width / 2;
  const y = box.y + box.height / 2;
  await page.mouse.move(x - 20, y);
  await page.mouse.move(x, y);
  await drawn(page);
  await page.waitForFunction(() =>
    /: Cp .*\) m/.test(document.querySelector(".view-status")?.textContent ?? ""),
  );
  await page.getByRole("button", { name: "measure" }).click();
  await page.mouse.click(x, y);
  await page.mouse.click(x + 30, y);
  assert.match((await page.locator(".view-status").textContent()) ?? "", /Distance [\d.]+ m/);
  await page.getByRole("button", { name: "measure" }).click();
});

test("the picture is saved as a file", async () => {
  const waiting = page.waitForEvent("download");
  await page.getByRole("button", { name: "save the picture" }).click();
  const saved = await waiting;
  assert.match(saved.suggestedFilename(), /\.png$/);
  const bytes = readFileSync((await saved.path()) ?? "");
  assert.equal(bytes.subarray(1, 4).toString(), "PNG");
});

test("tables are sorted by their headings", async () => {
  const heading = page.locator("table thead button").first();
  await heading.click();
  assert.equal(await heading.locator("..").getAttribute("aria-sort"), "ascending");
});

for (const dark of [false, true])
  test(`an accessibility checker finds nothing (${dark ? "dark" : "light"})`, async () => {
    const own = await opened(url, { dark });
    try {
      assert.deepEqual(await obstacles(own.page), []);
    } finally {
      await own.browser.close();
    }
  });

for (const width of [360, 1280])
  test(`fits a width of ${width} pixels`, async () => {
    const own = await opened(url, { width });
    try {
      const wide = await own.page.evaluate(() => document.documentElement.scrollWidth);
      assert.ok(wide <= width, `${wide} > ${width}`);
    } finally {
      await own.browser.close();
    }
  });

test("prints", async () => {
  const pdf = await page.pdf({ format: "A4" });
  assert.equal(pdf.subarray(0, 5).toString(), "%PDF-");
});

test("nothing was complained of meanwhile", () => {
  assert.deepEqual(complaints, []);
});
