// Takes the pictures in docs/screenshots from the demo of a running program:
//   BASE_URL=http://127.0.0.1:8080 npm run shots
import { chromium } from "@playwright/test";

import { signIn } from "./demo.js";

const base = process.env.BASE_URL ?? "http://127.0.0.1:8080";
const out = process.env.OUT ?? "docs/screenshots";
const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
});

async function shot(name, path, { phone = false, light = "day", before } = {}) {
  if (process.env.QUICK && !before) return; // its address alone: other tests open it
  const context = await browser.newContext({ viewport: phone ? { width: 390, height: 844 } : { width: 1280, height: 800 }, deviceScaleFactor: 1 });
  await context.addCookies([{ name: "light", value: light, url: base }]);
  await signIn(context, base);
  const page = await context.newPage();
  await page.goto(base + path);
  await page.waitForLoadState("networkidle");
  await page.evaluate(() => document.fonts.ready);
  if (before) await before(page);
  await page.screenshot({ path: `${out}/${name}.png` });
  await context.close();
}

const context = await browser.newContext();
await signIn(context, base);
const board = await context.newPage();
await board.goto(base);
const job = async (number) => board.locator(".job-card", { has: board.locator(`.job-number:text-is("${number}")`) }).getAttribute("href");
const [finished, half, surveyed] = [await job(61), await job(64), await job(66)];
await board.close();

await shot("board", "/");
await shot("ask", `${half}/ask`);
await shot("survey", `${half}/survey`, {
  before: async (page) => {
    await page.locator("#plan .thing-mark").first().click();
    await page.locator("#tape-nose").waitFor();
  },
});
await shot("roof", `${half}/roof`, {
  before: async (page) => {
    await page.locator("#plan .panel-mark").nth(2).click();
    await page.locator("#plan .free-text").first().waitFor();
  },
});
await shot("strings", `${finished}/strings`);
await shot("holes", `${half}/holes`);
await shot("cables", `${half}/cables`, {
  before: async (page) => {
    await page.locator("section.card", { hasText: "Home run to Ctrl 1" }).getByRole("link", { name: "Find a path" }).click();
    await page.getByRole("button", { name: "Use this path" }).first().waitFor();
    await page.evaluate(() => window.scrollTo(0, 0));
  },
});
await shot("prove", `${finished}/prove`);
await shot("record", `${finished}/record`);
await shot("register", "/register?kind=deviation");
await shot("layouts", `${half}/layouts`, {
  before: async (page) => {
    await page.getByLabel(/^slim 118 W/).fill("any");
    await page.getByLabel(/^small 62/).fill("any");
    await page.locator("[data-work]").click();
    await page.locator('[role=status]:text("6 of 6 worked out")').waitFor();
    await page.locator("#layout-cards").evaluate((cards) => cards.scrollIntoView());
    await page.evaluate(() => window.scrollBy(0, -110));
  },
});
await shot("power", `${half}/power`);
await shot("equipment-board", `${half}/equipment-board`);
await shot("survey-phone", `${surveyed}/survey`, {
  phone: true,
  before: async (page) => {
    await page.locator("#small .thing-mark").first().click();
    await page.locator("#hand-0").click();
    await page.locator("#pad button").first().waitFor();
  },
});
await shot("build", `${half}/build`);
await shot("days", "/days");
await shot("day-phone", "/day?person=Tobin+Ashgrove&day=2026-12-08", { phone: true });
await shot("stock", "/stock");
await shot("load-phone", "/load?day=2026-12-08", { phone: true });

await browser.close();
