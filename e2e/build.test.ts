import type { Page } from "@playwright/test";

import { accessible, copied, expect, saved, stage, test } from "./page";

/** How much this device keeps of something. */
const stored = (page: Page, what: "drafts" | "jobs") =>
  page.evaluate(
    (what) =>
      new Promise<number>((done, failed) => {
        const open = indexedDB.open("velvet-road");
        open.onerror = () => failed(open.error);
        open.onsuccess = () => {
          const count = open.result.transaction(what).objectStore(what).count();
          count.onsuccess = () => (open.result.close(), done(count.result));
        };
      }),
    what,
  );

test("days are planned, moved by hand, ticked off, and each person has their day", async ({ page }) => {
  await copied(page);
  await stage(page, "Build").click();
  await expect(page.locator(".built-list li").first()).toContainText("Look over the survey");
  await page.getByLabel("Plan", { exact: true }).selectOption("as short as can be");
  await page.getByRole("button", { name: "Plan again" }).click();
  const plans = page.getByRole("region", { name: "Plans to choose from" });
  await expect(plans).toContainText("With one more to help");
  await saved(page, () => plans.getByRole("button", { name: "Take this plan" }).first().click());
  await expect(page.locator("section.day").first()).toContainText("Look over the survey");
  await expect(page.locator("#message pre")).toContainText("Please prepare:");
  await accessible(page);

  // Begun and done, with a time.
  const row = page.locator("li.current");
  await page.getByRole("button", { name: "Look over the survey" }).click();
  await saved(page, () => row.getByRole("button", { name: "Begin" }).click());
  await expect(row).toContainText("under way");
  await saved(page, () => row.getByRole("button", { name: "Done", exact: true }).click());
  await expect(row).toContainText("took");

  // Moved onto an hour at which it cannot be: said, and let go again.
  await page.getByRole("button", { name: /^Switch on step by step/ }).click();
  await row.getByLabel("from", { exact: true }).fill("07:30");
  await row.getByLabel("Move it to").fill("2026-12-03");
  await saved(page, () => row.getByRole("button", { name: "Move it, and let it stay there" }).click());
  await expect(page.locator("#plan")).toContainText("What this plan breaks");
  await saved(page, () => row.getByRole("button", { name: "Let it move again" }).click());
  await page.locator("#plan").getByRole("button", { name: "Plan again" }).click();
  await expect(page.getByRole("region", { name: "Plans to choose from" })).toContainText("As little change as can be");

  // Dragged to another hour: what it would break is said while it moves, and where it is let go it stays.
  await page.getByRole("button", { name: /^Clean the roof/ }).click();
  const block = page.locator('.block[data-task="clean"]').first();
  const line = page.locator(".day-line").filter({ has: block }).first();
  await block.evaluate((el) => el.scrollIntoView({ block: "center" }));
  const [from, over] = [(await block.boundingBox())!, (await line.boundingBox())!];
  await page.mouse.move(from.x + 3, from.y + 5);
  await page.mouse.down();
  await page.mouse.move(from.x + 20, from.y + 5);
  await page.mouse.move(over.x + over.width - 30, over.y + 8, { steps: 4 });
  await expect(page.locator(".drag-tag")).toContainText("Clean the roof where it is sealed: ");
  const broken = "Mark out feet and holes begins before Clean the roof where it is sealed is done";
  await expect(page.locator("#breaks")).toContainText(broken);
  await page.keyboard.press("Escape");
  await expect(page.locator(".drag-tag")).toHaveCount(0);
  await expect(page.locator("#breaks")).not.toContainText(broken);
  await page.mouse.up();
  await block.evaluate((el) => el.scrollIntoView({ block: "center" }));
  const again = (await block.boundingBox())!;
  await page.mouse.move(again.x + 3, again.y + 5);
  await page.mouse.down();
  await page.mouse.move(again.x + 20, again.y + 5);
  await page.mouse.move(over.x + over.width - 30, again.y + 5, { steps: 4 });
  await saved(page, () => page.mouse.up());
  await expect(page.locator("li.current .outcome")).toHaveText("stays");
  await expect(page.locator("#breaks")).toContainText(broken);

  // A task of one's own; a forecast that is none.
  const own = page.locator("#own");
  await own.getByLabel("What is to be done").fill("Fetch the awning");
  await own.getByLabel("How long").fill("1.5");
  await saved(page, () => own.getByRole("button", { name: "Add the task" }).click());
  await expect(own).toContainText("Added: Fetch the awning, 1.5 h");
  const forecast = page.locator("#forecast");
  await forecast.getByLabel("File").setInputFiles({ name: "f.csv", mimeType: "text/csv", buffer: Buffer.from("day,rain\n1,2\n") });
  await forecast.getByRole("button", { name: "Read it" }).click();
  await expect(forecast.getByRole("alert")).toContainText("it has no column for time");

  await page.goto("/days");
  await accessible(page);
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto("/day?person=Tobin+Ashgrove&day=2026-12-03");
  await expect(page.getByRole("heading", { level: 1 })).toContainText("Tobin Ashgrove, Thursday 3 December");
  await accessible(page);
});

test("a van is loaded and counted on the phone, and what was counted is not lost with the page", async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto("/load?day=2026-12-14");
  await accessible(page);
  const panels = page.locator("li", { hasText: "slim 118 W" });
  await panels.getByRole("button", { name: "Loaded" }).click();
  await expect(panels.locator(".outcome")).toHaveText("in the van");
  await panels.getByRole("button", { name: "Came back" }).click();
  await expect(panels.getByRole("button", { name: "Loaded" })).toBeVisible();

  await page.goto("/stock/count?place=Van+1");
  await accessible(page);
  await page.getByLabel(/^blade fuse 10 A/).fill("11");
  await expect.poll(() => stored(page, "drafts")).toBe(1);
  await page.goto("/stock");
  await page.goBack();
  await page.reload();
  await expect(page.getByLabel(/^blade fuse 10 A/)).toHaveValue("11");
  await page.getByRole("button", { name: "Write the count" }).click();
  await expect(page.getByRole("status")).toContainText("Written");
  await expect(page.getByLabel(/^blade fuse 10 A/)).toHaveValue("");
  await expect.poll(() => stored(page, "drafts")).toBe(0);
  await expect(page.locator("li", { hasText: "blade fuse 10 A" })).toContainText("by the book 11");
});

test("what is missing is ordered from whoever has it", async ({ page }) => {
  await page.goto("/stock/orders");
  await accessible(page);
  const order = page.locator("section", { hasText: "Northgate Cable" }).first();
  await order.getByRole("button", { name: "It is ordered" }).click();
  await expect(page.locator("#way")).toContainText("PV cable 6 mm²");
  await page.goto("/stock/item?item=PV+cable+6+mm%C2%B2");
  await accessible(page);
  await expect(page.getByRole("region", { name: "What happened to it" })).toContainText("ordered");
});

test.describe("on a phone without a connection", () => {
  test.use({ takesAlong: true, viewport: { width: 390, height: 844 } });
  test("a person's day is there, and what is ticked off goes into the record", async ({ page, context }) => {
    test.setTimeout(120_000);
    await page.goto("/day?person=Sef+Kowalczyk&day=2026-12-14");
    await expect(page.getByRole("heading", { level: 2 })).toContainText("Job 68");
    await expect.poll(() => stored(page, "jobs"), { timeout: 60_000 }).toBe(1);
    await expect.poll(() => page.evaluate(async () => (await Promise.all((await caches.keys()).map(async (k) => (await (await caches.open(k)).keys()).some((r) => r.url.includes("offline.wasm"))))).includes(true)), { timeout: 60_000 }).toBe(true);
    await context.setOffline(true);
    await page.reload();
    await expect(page.getByRole("heading", { level: 1 })).toContainText("Sef Kowalczyk, Monday 14 December");
    await expect(page.getByRole("heading", { level: 2 })).toContainText("Job 68");
    await accessible(page);
    const first = page.locator("ol.built-list li").first();
    const title = await first.locator("b").innerText();
    await first.getByRole("link").click();
    const row = page.locator("li.current");
    await expect(row).toContainText(title);
    await row.getByRole("button", { name: "Begin" }).click();
    await row.getByRole("button", { name: "Done", exact: true }).click();
    await expect(page.locator("#waiting")).toHaveText("2 waiting");
    await page.goto("/day?person=Sef+Kowalczyk&day=2026-12-14");
    await expect(first.locator(".outcome")).toHaveText("done");
    await context.setOffline(false);
    await page.reload();
    await expect.poll(async () => (await page.goto("/day?person=Sef+Kowalczyk&day=2026-12-14"), first.locator(".outcome").innerText()), { timeout: 30_000 }).toBe("done");
  });
});

