import { readFile } from "node:fs/promises";
import { expect, newJob, saved, stage, test, write } from "./page";

test("a customer's year is asked and answered", async ({ page }) => {
  await page.goto("/");
  await page.locator(".job-card", { hasText: "Three panels, one controller" }).last().click();
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "Job file" }).click();
  const path = await (await download).path();
  await page.goto("/");
  const text = (await readFile(path, "utf8")).replaceAll("Otter Quay storage", "Elsewhere"); // other tests find the demo's by its place
  await page.getByLabel("Job file (JSON)").setInputFiles({ name: "job.json", mimeType: "application/json", buffer: Buffer.from(text) });
  await page.getByRole("checkbox", { name: /as a copy/ }).check();
  await page.getByRole("button", { name: "Bring it in" }).click();
  await page.waitForURL(/\/holes$/);
  await stage(page, "Ask").click();

  const says = page.locator("#year-says");
  await expect(says).toContainText("Shortest: December");
  const before = await says.innerText();
  await page.locator("#year-table > summary").click();
  await expect(page.locator("#year-table tbody tr").first()).toContainText("December");
  await expect(page.locator("#year-table tbody tr")).toHaveCount(12);

  await page.getByRole("link", { name: "What would it take?" }).click();
  await expect(page.locator("#would tbody tr").first()).toContainText("more");
  await expect(page.locator("#would")).toContainText("Without Fridge");
  await page.goto(page.url().replace(/\?.*/, ""));

  // Panels, controllers and bank together: stopped, searched, sorted, taken over and undone.
  await page.getByRole("button", { name: "Find combinations" }).click();
  await page.getByRole("button", { name: "Stop", exact: true }).click();
  await expect(page.locator("#combine")).toContainText("Stopped");
  await page.getByRole("button", { name: "Find combinations" }).click();
  const rows = page.locator("#combinations tbody tr:visible");
  await expect(rows.first()).toBeVisible({ timeout: 60_000 });
  const cost = async (nth: number) => Number(await rows.nth(nth).getAttribute("data-cost"));
  expect(await cost(0)).toBeLessThanOrEqual(await cost(1)); // what is in stock costs nothing, so that several may be alike
  expect(await cost(0)).toBeLessThan(await cost((await rows.count()) - 1));
  await page.locator("#rank").selectOption("nights");
  const nights = async (nth: number) => Number(await rows.nth(nth).getAttribute("data-nights"));
  expect(await nights(0)).toBeLessThanOrEqual(await nights(1));
  expect(await nights(0)).toBeLessThan(await nights((await rows.count()) - 1));
  const few = await rows.count();
  await page.getByRole("checkbox", { name: "that were tried" }).check();
  expect(await rows.count()).toBeGreaterThan(few);
  await page.locator("#by-cost a").first().click();
  await expect(page.locator("#combination-1")).toBeFocused();
  await saved(page, () => rows.first().getByRole("button", { name: "Use these parts" }).click());
  await expect(says).not.toHaveText(before);
  await saved(page, () => page.locator('[data-take="undo"]').first().click());
  await expect(says).toHaveText(before);

  // More is used: the answer follows. In summer alone: it does not.
  await page.locator("#ask-kinds > summary").click();
  await saved(page, () => page.getByRole("button", { name: "Furnace blower" }).click());
  await expect(says).not.toHaveText(before);
  const row = page.locator("tr", { has: page.locator('input[value="Furnace blower"]') });
  await row.getByLabel("Months").fill("summer");
  await row.getByLabel("Months").blur();
  await expect(row.locator(".wrong:visible")).toContainText("write them as Jun-Aug");
  await row.getByLabel("Months").fill("6-8");
  await saved(page, () => row.getByLabel("Months").blur());
  await expect(row.getByLabel("Months")).toHaveValue("Jun-Aug");
  await row.getByLabel("Hours a day").fill("25");
  await row.getByLabel("Hours a day").blur();
  await expect(row.locator(".wrong:visible")).toContainText("24");
  await saved(page, () => row.getByRole("button", { name: "Remove" }).click());
  await expect(says).toHaveText(before);

  // A stay that ends before it begins is told at its field; two at once are a caution.
  const river = page.locator(".power-thing", { hasText: "River mouth" });
  await river.getByLabel("Leaves on").fill("2027-09-01");
  await river.getByLabel("Leaves on").blur();
  await expect(river.locator(".wrong:visible")).toContainText("before it begins");
  await river.getByLabel("Leaves on").fill("2028-01-05");
  await saved(page, () => river.getByLabel("Leaves on").blur());
  await river.getByLabel("From").fill("2027-09-24");
  await saved(page, () => river.getByLabel("From").blur());
  await expect(page.locator("#findings")).toContainText("10 days at two places");

  // On shore power all of it is covered.
  for (const place of ["Green coast", "River mouth"]) {
    const hookup = page.locator(".power-thing", { hasText: place }).getByLabel("Hookup");
    await saved(page, () => hookup.selectOption("yes"));
  }
  await expect(says).toContainText("All of what they use is covered");
});

test("a stay by hand asks for its place", async ({ page }) => {
  const job = await newJob(page, "Somewhere", "metric");
  await page.goto(`${job}/ask`);
  await saved(page, () => page.getByRole("button", { name: "Add a stay by hand" }).click());
  await expect(page.locator("#findings")).toContainText("its place is not known");
  await page.locator(".power-thing summary").click();
  const latitude = page.getByLabel("Latitude");
  await latitude.fill("91");
  await latitude.blur();
  await expect(page.locator(".power-thing .wrong:visible")).toContainText("not 91");
  await latitude.fill("47.4");
  await saved(page, () => latitude.blur());
  await write(page, (await page.getByLabel("Longitude").getAttribute("id"))!, "8.5");
  await expect(page.locator("#findings")).not.toContainText("its place is not known");
});

test("a signed job takes what the customer says of it", async ({ page }) => {
  await page.goto("/");
  await page.locator(".job-card", { hasText: "Roof array and two controllers" }).last().click();
  const job = page.url().replace(/(\/jobs\/[^/]+).*/, "$1");
  await page.goto(`${job}/record?promise=1`);
  const promise = page.locator("#promise");
  await expect(promise.locator("tr", { hasText: "Panels" })).toContainText("1,722");
  await expect(promise.locator("tr", { hasText: "January covered" })).toContainText("100 to 100");
  const said = promise.locator(".power-thing");
  const before = await said.count();
  await saved(page, () => promise.getByRole("button", { name: "Add what the customer says" }).click());
  await expect(said).toHaveCount(before + 1);
  await said.last().getByLabel("Low nights").fill("400");
  await said.last().getByLabel("Low nights").blur();
  await expect(said.last().locator(".wrong:visible")).toContainText("366");
  await said.last().getByLabel("Low nights").fill("4");
  await saved(page, () => said.last().getByLabel("Low nights").blur());
  await saved(page, () => said.last().getByRole("button", { name: "Remove" }).click());
  await expect(said).toHaveCount(before);
});
