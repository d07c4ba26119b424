import { expect, newJob, saved, stage, test, write } from "./page";

// A hole is made step by step, with who did what, and taken back.
test("a hole in the floor is made step by step", async ({ page }) => {
  await newJob(page, "A hole in the floor", "metric");
  for (const [id, typed] of [["f-rig-length_mm", "5000"], ["f-rig-width_mm", "2100"], ["f-rig-inside_height_mm", "1950"], ["f-rig-board-x_mm", "1000"], ["f-rig-board-y_mm", "300"], ["f-rig-board-up", "900"]]) await write(page, id, typed);
  await stage(page, "Holes").click();
  await saved(page, () => page.getByRole("button", { name: "In the floor" }).click());
  const card = page.locator("section.card", { hasText: "Hole 1" }).first();
  await expect(card).toContainText("in the floor, planned");
  for (const step of ["marked", "piloted", "drilled", "deburred"]) {
    await saved(page, () => page.getByRole("button", { name: `Hole 1: ${step}` }).click());
    await expect(card).toContainText(step);
  }
  await expect(card).toContainText(/piloted by/);
  await saved(page, () => page.getByRole("button", { name: "Take back: deburred" }).click());
  await expect(card).toContainText("in the floor, drilled");
  await card.getByText("How it is made, step by step").click();
  await expect(card.locator("ol")).toContainText("Pilot from above");
});

// Pieces on the equipment board are dragged and nudged to scale, with the checks beside
// them.
test("the equipment board is arranged by hand", async ({ page }) => {
  await page.goto("/");
  const job = (await page.locator(".job-card", { has: page.locator('.job-number:text-is("64")') }).getAttribute("href"))!;
  await page.goto(`${job}/equipment-board`);
  const bus = page.locator("#plan .gear-mark", { hasText: "Minus bus" });
  const x = Number(await bus.getAttribute("data-x"));
  await bus.scrollIntoViewIfNeeded();
  await bus.focus();
  await saved(page, () => page.keyboard.press("ArrowRight"));
  await expect.poll(async () => Number(await bus.getAttribute("data-x"))).toBeCloseTo(x + 10, 3);
  const box = (await bus.locator("rect.gear").boundingBox())!;
  await page.mouse.move(box.x + 8, box.y + 6);
  await page.mouse.down();
  await page.mouse.move(box.x - 60, box.y + 6, { steps: 4 });
  await saved(page, () => page.mouse.up());
  await expect(page.locator("#findings")).toContainText(/overlaps|free air is needed/);
  await saved(page, () => page.keyboard.press("z"));
  await saved(page, () => page.keyboard.press("z"));
  await expect.poll(async () => Number(await bus.getAttribute("data-x"))).toBeCloseTo(x, 3);
});
