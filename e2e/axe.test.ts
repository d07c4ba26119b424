import { accessible, expect, test } from "./page";
import type { Page } from "@playwright/test";

// Every page passes axe, and none scrolls sideways. The parts run beside each other.
test.describe.configure({ mode: "parallel" });

const stages = ["ask", "survey", "roof", "strings", "controllers", "holes", "cables", "power", "record", "print", "customer", "markout", "layouts", "wirings", "curves", "volts", "materials", "equipment-board", "practice", "history"];

async function jobsOf(page: Page) {
  await page.goto("/");
  const jobs: string[] = [];
  for (const number of ["61", "64", "66"]) jobs.push((await page.locator(".job-card", { has: page.locator(`.job-number:text-is("${number}")`) }).getAttribute("href"))!);
  return jobs;
}

/** How wide a page is with letters twice as large. */
const large = async (page: Page) => {
  await page.evaluate(() => (document.documentElement.style.fontSize = "200%"));
  return wide(page);
};

const wide = (page: Page) => page.evaluate(() => document.documentElement.scrollWidth);

// Of the signed job those that have something the other has not.
const signed = ["strings", "curves", "record", "print", "customer", "history", "rig"];

for (const [n, of, pages] of [[0, "a signed job", signed], [1, "a job under way", stages.slice(0, 10)], [1, "a job under way, those beside the road", stages.slice(10)]] as const) {
  test(`pages of ${of} pass axe by day`, async ({ page }) => {
    test.setTimeout(300_000);
    const jobs = await jobsOf(page);
    const others = n === 0 ? ["/", "/shelf", "/rules", "/pocket", "/register?kind=deviation", "/stock", `${jobs[2]}/survey`, `${jobs[2]}/roof`] : [];
    for (const path of [...others, ...pages.map((stage) => `${jobs[n]}/${stage}`)]) {
      await page.goto(path);
      // Long lists of rows that are all made alike: the first ones stand for the rest.
      await accessible(page, undefined, ({ "/shelf": "tbody tr:nth-child(n+3)", "/rules": "section:nth-of-type(n+8)" } as Record<string, string>)[path]);
      expect(await large(page), `${path} with large letters`).toBeLessThanOrEqual(1280);
    }
  });
}

test("pages pass axe in the other lights, which differ in colour and size alone", async ({ page, baseURL }) => {
  test.setTimeout(300_000);
  const jobs = await jobsOf(page);
  for (const light of ["glare", "night"] as const) {
    await page.context().addCookies([{ name: "light", value: light, url: baseURL! }]);
    for (const path of ["/", ...(light === "glare" ? ["roof", "record"] : ["strings", "cables"]).map((stage) => `${jobs[1]}/${stage}`)]) {
      await page.goto(path);
      await expect(page.locator("html")).toHaveAttribute("data-light", light);
      await accessible(page, ["color-contrast", "target-size"]);
    }
  }
});

test("on a phone no page scrolls sideways, and those used on the roof pass axe", async ({ page }) => {
  test.setTimeout(300_000);
  const jobs = await jobsOf(page);
  await page.setViewportSize({ width: 390, height: 844 });
  for (const stage of stages) {
    await page.goto(`${jobs[1]}/${stage}`);
    if (["survey", "holes", "record", "markout"].includes(stage)) await accessible(page);
    expect(await wide(page), `${stage} does not scroll sideways`).toBeLessThanOrEqual(390);
    // Those that are used on the roof, and what every page is made of.
    if (["ask", "survey", "strings", "holes", "record", "markout", "practice"].includes(stage)) expect(await large(page), `nor ${stage} with large letters`).toBeLessThanOrEqual(390);
  }
  await page.goto("/pocket");
  await accessible(page);
  expect(await wide(page), "nor do the small sums").toBeLessThanOrEqual(390);
  for (const path of ["/", "/shelf", "/rules", "/register?kind=reading", `${jobs[0]}/rig`, "/stock", "/stock/item?item=mid+172+W", "/stock/orders", "/days"]) {
    await page.goto(path);
    expect(await wide(page), `nor does ${path}`).toBeLessThanOrEqual(390);
    expect(await large(page), `nor ${path} with large letters`).toBeLessThanOrEqual(390);
  }
});
