// Uses the viewer as a person would, in headless Chromium with no network, and prints what was seen as JSON.
// usage: node click.mjs PAGE MARK [PICTURE]
import { chromium } from "playwright-core";
import { pathToFileURL } from "node:url";

const [, , file, mark, picture] = process.argv;
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
  args: ["--no-sandbox", "--use-angle=swiftshader", "--enable-unsafe-swiftshader", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync"],
});
const seen = { asked: [], errors: [], dialogs: 0 };
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on("request", (one) => { if (!one.url().startsWith("data:")) seen.asked.push(one.url().split(":")[0]); });
page.on("console", (one) => { if (one.type() === "error") seen.errors.push(one.text()); });
page.on("pageerror", (one) => seen.errors.push(one.message));
page.on("dialog", (one) => { seen.dialogs++; one.dismiss(); });
await page.goto(file.startsWith("http") ? file : pathToFileURL(file).href);
await page.waitForFunction(() => document.body.dataset.ready, null, { timeout: 120000 });
seen.ready = await page.evaluate(() => document.body.dataset.ready);
seen.title = await page.textContent("#title");
const rows = () => page.$$eval("#found .row", (all) => all.length);
// what the canvas shows: how many of its points are about a colour
const painted = (colour) => page.evaluate((wanted) => {
  const model = globalThis.page.model, gl = model.renderer.getContext();
  model.renderer.render(model.scene, model.camera);
  const wide = gl.drawingBufferWidth, high = gl.drawingBufferHeight, all = new Uint8Array(4 * wide * high);
  gl.readPixels(0, 0, wide, high, gl.RGBA, gl.UNSIGNED_BYTE, all);
  let n = 0;
  for (let k = 0; k < all.length; k += 4) {
    const [r, g, b] = all.subarray(k, k + 3), top = Math.max(r, g, b) || 1, most = Math.max(...wanted);
    if (Math.abs(r / top - wanted[0] / most) + Math.abs(g / top - wanted[1] / most) + Math.abs(b / top - wanted[2] / most) < 0.25) n++;
  }
  return n;
}, colour);
const OCHRE = [195, 138, 26], GO = [44, 122, 112];
seen.pieces = await rows();
seen.found = [await painted(OCHRE)];
await page.keyboard.press("/");
await page.keyboard.type(mark);
await page.keyboard.press("Enter");
seen.rowsFound = await rows();
seen.picked = await page.textContent("#facts h2");
seen.found.push(await painted(GO));
await page.keyboard.press("Escape");
seen.afterEscape = await rows();
await page.click(`#found .row:has-text("${mark}")`);
await page.click("#facts [data-sheet]");
await page.waitForFunction(() => document.getElementById("sheet").complete);
seen.sheet = await page.evaluate(() => [document.getElementById("over-title").textContent, document.getElementById("sheet").naturalWidth]);
await page.mouse.move(640, 400);
await page.mouse.wheel(0, -800);
seen.zoomed = await page.evaluate(() => document.getElementById("sheet").style.transform);
await page.keyboard.press("Escape");
seen.closed = await page.evaluate(() => document.getElementById("over").hidden);
await page.click("#tab-sheets");
seen.sheets = await page.$$eval("#found [data-sheet]", (all) => all.length);
await page.click("#tab-lists");
seen.lists = await rows();
if (seen.lists) {
  await page.click("#found .row");
  seen.cells = await page.$$eval("#over-inside td", (all) => all.length);
  await page.keyboard.press("Escape");
}
await page.click("#tab-changes");
seen.changes = await rows();
seen.key = await page.$$eval("#key span", (all) => all.map((one) => one.textContent));
await page.evaluate(() => { globalThis.page.choose(-1); globalThis.page.model.frame(globalThis.page.model.whole()); });
seen.changed = await painted(OCHRE);
if (picture) await page.screenshot({ path: picture });
// a piece is picked in the model, where one is
await page.keyboard.press("Escape");
const box = await page.locator("#canvas").boundingBox();
seen.clicked = null;
for (let k = 1; k < 400 && !seen.clicked; k++) {
  const [x, y] = [box.x + (box.width * ((k * 37) % 100)) / 100, box.y + (box.height * ((k * 61) % 100)) / 100].map(Math.round);
  const there = await page.evaluate(([x, y]) => globalThis.page.model.at(x, y), [x, y]);
  if (there < 0) continue;
  await page.mouse.click(x, y);
  seen.clicked = [await page.evaluate((n) => globalThis.page.data.pieces[n].mark, there), await page.textContent("#facts h2")];
}
seen.ran = await page.evaluate(() => globalThis.ran ?? 0);
console.log(JSON.stringify(seen));
await Promise.race([browser.close(), new Promise((done) => setTimeout(done, 5000))]);
process.exit(0);
