// Debian's Chromium without a display, driven by its debugging protocol.
import { readFileSync } from "node:fs";
import { type Browser, chromium, type Page } from "playwright-core";

export async function opened(
  url: string,
  options: { width?: number; dark?: boolean } = {},
): Promise<{ browser: Browser; page: Page; complaints: string[]; requests: string[] }> {
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
    args: [
      "--no-sandbox",
      "--use-gl=angle",
      "--use-angle=swiftshader",
      "--enable-unsafe-swiftshader",
      "--disable-quic",
      "--no-first-run",
      "--disable-background-networking",
      "--disable-component-update",
      "--disable-sync",
    ],
  });
  const page = await browser.newPage({
    viewport: { width: options.width ?? 1280, height: 800 },
    colorScheme: options.dark ? "dark" : "light",
  });
  const complaints: string[] = [];
  const requests: string[] = [];
  page.on("console", (m) => {
    if (m.type() === "error") complaints.push(m.text());
  });
  page.on("pageerror", (e) => complaints.push(e.message));
  page.on("dialog", (d) => {
    complaints.push(`dialog: ${d.message()}`);
    d.dismiss();
  });
  page.on("request", (r) => requests.push(r.url()));
  await page.goto(url);
  await page.waitForFunction(() => Boolean(window.dunefield?.viewer));
  await drawn(page);
  return { browser, page, complaints, requests };
}

/** Until the view shows what its state asks for. */
export async function drawn(page: Page) {
  await page.evaluate(async () => {
    await window.dunefield?.viewer?.ready;
    await new Promise((next) => requestAnimationFrame(() => requestAnimationFrame(next)));
  });
}

/** The view's pixels, as one text. */
export async function pixels(page: Page): Promise<string> {
  await drawn(page);
  return page.evaluate(() => window.dunefield?.viewer?.stage.picture() ?? "");
}

/** What an accessibility checker finds on the page. */
export async function obstacles(page: Page): Promise<string[]> {
  await page.evaluate(
    readFileSync(`${process.env.VIEWER}/node_modules/axe-core/axe.min.js`, "utf8"),
  );
  return page.evaluate(async () => {
    // biome-ignore lint/suspicious/noExplicitAny: the checker has put itself there
    const result = await (window as any).axe.run();
    return result.violations.map(
      (v: { id: string; nodes: { html: string }[] }) => `${v.id}: ${v.nodes[0]?.html}`,
    );
  });
}
