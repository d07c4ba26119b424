import { accessible, copied, expect, saved, stage, test } from "./page";

test("days are planned, moved by hand, ticked off, and each person has their day", async ({ page }) => {
  await copied(page);
  await stage(page, "Build").click();
  await expect(page.locator(".built-list li").first()).toContainText("Look over the survey");
  await page.getByRole("button", { name: "Plan the days" }).click();
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
  await row.getByLabel("Move it to").fill(await page.locator("#move-day").inputValue());
  await saved(page, () => row.getByRole("button", { name: "Move it, and let it stay there" }).click());
  await expect(page.locator("#plan")).toContainText("What this plan breaks");
  await saved(page, () => row.getByRole("button", { name: "Let it move again" }).click());
  await page.locator("#plan").getByRole("button", { name: "Plan again" }).click();
  await expect(page.getByRole("region", { name: "Plans to choose from" })).toContainText("As little change as can be");

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
