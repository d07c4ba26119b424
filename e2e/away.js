// Drives sessions without a connection in a running program that holds the demo, and
// counts what is lost, doubled or out of order; then the bytes of a first visit and the
// time of a cold opening without a connection:
//   BASE_URL=http://127.0.0.1:8080 npm run away
// Each session takes a job along, goes without, makes ten edits, the page closed between
// them, and comes back.
import { chromium } from "@playwright/test";

import { signIn } from "./demo.js";

const base = process.env.BASE_URL ?? "http://127.0.0.1:8080";
const sessions = Number(process.env.SESSIONS ?? 30);
const edits = 10;
const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
});

// A first visit, in a browser that has nothing yet.
{
  const context = await browser.newContext({ serviceWorkers: "block" }); // its bytes would not be counted
  await signIn(context, base);
  const page = await context.newPage();
  const cdp = await context.newCDPSession(page);
  await cdp.send("Network.enable");
  let bytes = 0;
  cdp.on("Network.loadingFinished", (e) => (bytes += e.encodedDataLength));
  await page.goto(base + "/");
  await page.waitForLoadState("networkidle");
  const board = bytes;
  await page.goto(await page.locator(".job-card").first().getAttribute("href").then((at) => base + at));
  await page.waitForLoadState("networkidle");
  console.log(`a first visit: the board ${(board / 1000).toFixed(0)} kB, with a job's page ${(bytes / 1000).toFixed(0)} kB; the program for no connection comes after that, in the background`);
  await context.close();
}

const times = { cold: [], warm: [] };
let lost = 0;
let doubled = 0;
let disordered = 0;
let all = 0;
for (let n = 0; n < sessions; n++) {
  const context = await browser.newContext();
  await signIn(context, base);
  context.setDefaultTimeout(120_000); // a busy machine is slow, not wrong
  const page = await context.newPage();
  await page.goto(base + "/");
  await page.getByLabel("Job", { exact: true }).fill(`Away ${n}`);
  await page.getByRole("button", { name: /Start the job/ }).click();
  await page.waitForURL(/\/jobs\//);
  const job = page.url().replace(/\/[a-z]+([?#].*)?$/, "");
  await page.goto(`${job}/survey`);
  await page.getByRole("button", { name: "Take along" }).click();
  await page.getByRole("button", { name: "Taken along" }).waitFor();
  await context.setOffline(true);
  // The worker is stopped, as a phone does after a while: the next opening is a cold one.
  const cdp = await browser.newBrowserCDPSession();
  const { targetInfos } = await cdp.send("Target.getTargets");
  for (const t of targetInfos.filter((t) => t.type === "service_worker" && t.url.startsWith(base))) await cdp.send("Target.closeTarget", { targetId: t.targetId }).catch(() => undefined);
  let open = page;
  const made = [];
  for (let i = 0; i < edits; i++) {
    if (i % 2 === 0) {
      if (i > 0) await open.close();
      if (i > 0) open = await context.newPage();
      const start = Date.now();
      await open.goto(`${job}/survey`);
      await open.locator("#f-job-contact").waitFor({ state: "attached" });
      times[i === 0 ? "cold" : "warm"].push(Date.now() - start);
    }
    const field = open.locator(i % 3 ? "#f-job-contact" : "#f-job-customer");
    await field.evaluate((el) => {
      for (let fold = el.closest("details"); fold; fold = fold.parentElement?.closest("details") ?? null) fold.open = true;
    });
    const text = `session ${n}, edit ${i}`;
    await field.fill(text);
    await field.blur();
    made.push(text);
    await open.waitForFunction((count) => document.getElementById("waiting")?.textContent?.startsWith(`${count} `), i + 1);
  }
  await open.close();
  await context.setOffline(false);
  open = await context.newPage();
  await open.goto(`${job}/survey`);
  await open.waitForFunction(() => document.getElementById("waiting")?.hidden, undefined, { timeout: 120_000 });
  const { revision } = await (await context.request.get(`${job.replace("/jobs/", "/api/jobs/")}/carry`)).json();
  const end = await (await context.request.get(`${job}/export`)).json();
  all += made.length;
  if (revision - 1 > made.length) doubled += revision - 1 - made.length;
  if (revision - 1 < made.length) lost += made.length - (revision - 1);
  const last = (filter) => made.filter((_, i) => filter(i)).at(-1);
  if (end.contact !== last((i) => i % 3 !== 0) || end.customer !== last((i) => i % 3 === 0)) disordered++;
  await context.close();
}
const median = (list) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)];
console.log(`${sessions} sessions without a connection, ${all} edits: ${lost} lost, ${doubled} doubled, ${disordered} sessions out of order`);
console.log(`opening a page without a connection: cold ${median(times.cold)} ms (longest ${Math.max(...times.cold)}), then ${median(times.warm)} ms`);
await browser.close();
if (lost + doubled + disordered) process.exit(1);
