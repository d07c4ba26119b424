import { accessible, expect, newJob, saved, stage, test, write } from "./page";

// A caution is accepted with a reason: it no longer counts, says who accepted it
// and why, and is opened again by hand.
test("a caution is accepted with a reason and opened again", async ({ page }) => {
  await newJob(page, "Accepted", "metric");
  await write(page, "f-rig-length_mm", "4600");
  await write(page, "f-rig-width_mm", "2100");
  await stage(page, "Roof").click();
  await saved(page, () => page.locator(".palette li", { hasText: "mid 172 W" }).getByRole("button").click());
  const caution = page.locator('#to-check .finding[data-code="roof.hold_down"]');
  await expect(caution).toContainText("until the deck is surveyed");
  const open = await page.locator("#to-check .finding").count();
  await caution.getByText("accept", { exact: true }).click();
  await caution.getByRole("button", { name: "Accept" }).click();
  await expect(page.locator("#to-check .finding")).toHaveCount(open); // a reason is needed
  await caution.getByLabel("Why it is accepted").fill("the owner knows the deck");
  await accessible(page);
  await saved(page, () => caution.getByRole("button", { name: "Accept" }).click());
  await expect(page.locator("#to-check .finding")).toHaveCount(open - 1);
  await page.locator("#findings details.passed summary").first().click();
  const accepted = page.locator('#findings details.passed .finding[data-code="roof.hold_down"]');
  await expect(accepted).toContainText("the owner knows the deck");
  await saved(page, () => accepted.getByRole("button", { name: "Open again" }).click());
  await expect(page.locator("#to-check .finding")).toHaveCount(open);
});

// Where a check has one obvious cure it is a button, and undo takes it back; the whole
// job's checks are one touch away.
test("a stop is put right by its button, and undo brings it back", async ({ page }) => {
  await newJob(page, "Put right", "metric");
  await write(page, "f-rig-length_mm", "4600");
  await write(page, "f-rig-width_mm", "1500");
  await stage(page, "Roof").click();
  await saved(page, () => page.locator(".palette li", { hasText: "long 228 W" }).getByRole("button").click());
  await page.locator("#plan .panel-mark").first().focus();
  await saved(page, () => page.keyboard.press("r")); // 1720 mm across a roof of 1500 mm
  const stop = page.locator("#to-check .finding.stop", { hasText: "larger than the roof" });
  await expect(stop).toHaveCount(1);
  await saved(page, () => stop.getByRole("button", { name: /^Turn .* lengthwise$/ }).click());
  await expect(stop).toHaveCount(0);
  await saved(page, () => page.getByRole("button", { name: /^Undo/ }).click());
  await expect(stop).toHaveCount(1);
  await expect(page.locator("#toast")).toContainText(/^Undone: turn .* lengthwise\.$/);
  // What is undone elsewhere says where.
  await stage(page, "Cables").click();
  await saved(page, () => page.getByRole("button", { name: /^Redo/ }).click());
  await expect(page.locator("#toast")).toContainText("Done again: turn");
  await page.locator("#toast").getByRole("link", { name: "See it at Roof" }).click();
  await expect(stop).toHaveCount(0);
  await saved(page, () => page.getByRole("button", { name: /^Undo/ }).click());
  await page.getByRole("navigation", { name: "Which checks" }).getByRole("link", { name: "whole job" }).click();
  await expect(page.locator("#to-check .asks").first()).toHaveText("Survey");
  await expect(page.locator("#to-check .asks")).toContainText(["Survey", "Roof"]);
  await accessible(page);
  await saved(page, () => page.locator("#to-check").getByRole("button", { name: /^Turn .* lengthwise$/ }).click());
  await expect(page.locator("#to-check .asks").first(), "an edit keeps the list that is shown").toHaveText("Survey");
});
