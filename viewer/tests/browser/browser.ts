// Debian's Chromium without a display, driven by its debugging protocol.
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
