// Measures a running program that holds the demo:
//   BASE_URL=http://127.0.0.1:8080 npm run figures
// First visit in bytes, the round trip of an edit in the browser, and pages
// asked for by twenty at once. The machine's noise is in the figures; compare
// figures of one run. It makes a job of its own and changes no other.
import { chromium } from "@playwright/test";

import { signIn } from "./demo.js";

const base = process.env.BASE_URL ?? "http://127.0.0.1:8080";
if (!/^http:\/\/(127\.0\.0\.1|localhost)[:/]/.test(base + "/")) throw new Error("only a program on this machine is measured");
const share = process.env.QUICK ? 0.1 : 1; // of the usual repeats
const sorted = (list) => [...list].sort((a, b) => a - b);
const at = (list, share) => sorted(list)[Math.min(list.length - 1, Math.floor(list.length * share))];

const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.setDefaultTimeout(120_000); // a busy machine is slow, not wrong
await signIn(page.context(), base);
const session = await page.context().newCDPSession(page);
await session.send("Network.enable");
let bytes = 0;
session.on("Network.loadingFinished", (e) => (bytes += e.encodedDataLength));
await page.goto(base);
const jobs = await page.locator(".job-card").evaluateAll((cards) => cards.map((c) => c.getAttribute("href")));
await page.goto(`${base}${jobs[0]}/roof`);
await page.waitForLoadState("networkidle");
console.log(`first visit, board and a roof plan: ${(bytes / 1000).toFixed(0)} kB over the wire`);

// A job of its own with twenty panels; then one panel is moved again and again.
await page.goto(base);
await page.getByLabel("Job", { exact: true }).fill("Figures");
await page.locator("#units").selectOption("metric");
await page.getByRole("button", { name: /Start the job/ }).click();
await page.waitForURL(/\/jobs\//);
const own = page.url().replace(/\/[a-z]+([?#].*)?$/, "");
await page.goto(`${own}/survey`);
const answered = () => page.waitForResponse((r) => /\/api\/.*\/(edit|fields)$/.test(r.url()) && !(r.request().postData() ?? "").includes('"try":true'));
for (const [id, text] of [["length_mm", "11 m"], ["width_mm", "2.5 m"]]) {
  await page.locator(`#f-rig-${id}`).fill(text);
  await Promise.all([answered(), page.locator(`#f-rig-${id}`).blur()]);
}
await page.goto(`${own}/roof`);
for (let i = 0; i < 20; i++) await Promise.all([answered(), page.locator(".palette li", { hasText: "half-length 84 W" }).getByRole("button").click()]);
const trips = await page.evaluate(async (repeats) => {
  const times = [];
  for (let i = 0; i < repeats; i++) {
    const field = document.querySelector('[aria-label="Panels on the roof"] input[name="x_mm"]');
    const start = performance.now();
    field.value = `${50 + (i % 2)} mm`;
    field.dispatchEvent(new Event("change", { bubbles: true }));
    const revision = Number(document.getElementById("page").dataset.revision);
    while (Number(document.getElementById("page").dataset.revision) === revision) await new Promise((done) => requestAnimationFrame(done));
    times.push(performance.now() - start);
  }
  return times;
}, 40 * share);
console.log(`edit to the redrawn page, 20 panels: median ${at(trips, 0.5).toFixed(0)} ms, 95th percentile ${at(trips, 0.95).toFixed(0)} ms of ${trips.length}`);

// A drag of three seconds with twenty panels on the roof, by the browser's own frames.
await page.reload();
const mark = page.locator("#plan .panel-mark").nth(9);
const box = await mark.boundingBox();
await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
await page.mouse.down();
const frames = page.evaluate((lasts) => new Promise((done) => {
  const stamps = [];
  const frame = (now) => { stamps.push(now); stamps.length < 2 || now - stamps[0] < lasts ? requestAnimationFrame(frame) : done(stamps); };
  requestAnimationFrame(frame);
}), 3000 * share);
for (let i = 0, start = Date.now(); Date.now() - start < 3000 * share + 200; i++) {
  await page.mouse.move(box.x + box.width / 2 + 60 * Math.sin(i / 9), box.y + box.height / 2 + 20 * Math.cos(i / 9));
  await new Promise((done) => setTimeout(done, 4));
}
const stamps = await frames;
await page.mouse.up();
const gaps = stamps.slice(1).map((t, i) => t - stamps[i]);
console.log(`drag with 20 panels: ${((gaps.length * 1000) / (stamps.at(-1) - stamps[0])).toFixed(1)} frames a second, median frame ${at(gaps, 0.5).toFixed(1)} ms, 95th percentile ${at(gaps, 0.95).toFixed(1)} ms, ${gaps.filter((g) => g > 25).length} of ${gaps.length} over 25 ms`);
const cookie = (await page.context().cookies()).map((c) => `${c.name}=${c.value}`).join("; ");
await browser.close();

const stages = ["survey", "roof", "strings", "controllers", "holes", "cables", "record"];
const times = [];
await Promise.all(
  Array.from({ length: 20 }, async (_, person) => {
    for (let i = 0; i < 14 * share; i++) {
      await new Promise((done) => setTimeout(done, 700 + 600 * ((person * 7 + i * 3) % 10) / 10)); // people read before they go on
      const start = performance.now();
      const response = await fetch(`${base}${jobs[(person + i) % 3]}/${stages[i % 7]}`, { headers: { cookie } });
      await response.text();
      if (response.status !== 200) throw new Error(`status ${response.status}`);
      times.push(performance.now() - start);
    }
  }),
);
console.log(`pages to twenty people at work: median ${at(times, 0.5).toFixed(0)} ms, 95th percentile ${at(times, 0.95).toFixed(0)} ms of ${times.length}`);
