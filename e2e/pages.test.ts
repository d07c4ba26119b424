import { accessible, expect, newJob, saved, stage, test, unfold, write } from "./page";

test("on a phone the survey and the record are worked with a thumb", async ({ page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  const job = await newJob(page, "By thumb on a ladder");
  for (const at of ["survey", "record"]) {
    await page.goto(`${job}/${at}`);
    const small = await page.locator("main button:visible, main input:visible, main select:visible, main .segments label:visible, a.next:visible").evaluateAll((all) =>
      all.filter((e) => !e.closest("summary") && e.getBoundingClientRect().height < 44 && getComputedStyle(e).opacity !== "0").map((e) => e.outerHTML.slice(0, 90)));
    expect(small).toEqual([]);
  }
  // Seven feet four and a half, from the keys.
  await page.goto(`${job}/survey`);
  await page.locator("#f-rig-width_mm").click();
  const pad = page.locator("#pad");
  await expect(pad).toBeVisible();
  for (const key of ["7", "'", "4", "1/2", '"']) await pad.getByRole("button", { name: key, exact: true }).click();
  await expect(page.locator("#f-rig-width_mm")).toHaveValue(`7'4 1/2"`);
  await saved(page, () => pad.getByRole("button", { name: "Done" }).click());
  await expect(page.locator("#f-rig-width_mm")).toHaveValue(`7' 4 1/2"`);
  await expect(pad).toBeHidden();
});

test("panels are dragged, nudged, turned, doubled, taken off and brought back", async ({ page }) => {
  await newJob(page, "By hand", "metric");
  await write(page, "f-rig-length_mm", "5.2 m");
  await write(page, "f-rig-width_mm", "2100");
  await stage(page, "Roof").click();
  await saved(page, () => page.locator(".palette li", { hasText: "mid 172 W" }).getByRole("button").click());
  const mark = page.locator("#plan .panel-mark").first();
  await expect(page.locator("#plan .mark-selected")).toBeVisible();
  await expect(mark).toHaveAttribute("data-x", "50");

  // Dragged: distances and what it touches are live before it is let go.
  const box = (await mark.boundingBox())!;
  await page.mouse.move(box.x + 30, box.y + 30);
  await page.mouse.down();
  await page.mouse.move(box.x + 130, box.y + 60, { steps: 5 });
  await page.mouse.move(box.x + 10, box.y + 30, { steps: 5 });
  await expect(page.locator("#findings .finding.stop")).toContainText("overhangs the roof by");
  await expect(page.locator("#plan-live .free-text").first()).toContainText("mm");
  await page.mouse.move(box.x + 150, box.y + 70, { steps: 5 });
  await saved(page, () => page.mouse.up());
  const scale = Number(await page.locator("#plan").getAttribute("data-scale"));
  const perPixel = 916 / (await page.locator("#plan").boundingBox())!.width / scale;
  const x = Number(await mark.getAttribute("data-x"));
  expect(Math.abs(x - (50 + 120 * perPixel))).toBeLessThan(2);
  await expect(page.locator("#findings .finding.stop")).toHaveCount(0);

  // Dragged along one side, the other place stays as it is typed, to the last digit.
  await write(page, await page.getByRole("region", { name: "Panels on the roof" }).getByLabel("From street side").getAttribute("id") as string, "433.37 mm");
  const here = (await mark.boundingBox())!;
  await page.mouse.move(here.x + 30, here.y + 30);
  await page.mouse.down();
  await page.mouse.move(here.x + 70, here.y + 31, { steps: 4 });
  await page.mouse.move(here.x + 30, here.y + 31, { steps: 4 });
  await page.mouse.move(here.x + 50, here.y + 31, { steps: 4 });
  await saved(page, () => page.mouse.up());
  await expect(mark).toHaveAttribute("data-y", "433.37");
  await page.getByRole("button", { name: "Undo" }).first().click();
  await expect.poll(async () => Number(await mark.getAttribute("data-x"))).toBeCloseTo(x, 3);

  await mark.focus();
  await saved(page, () => page.keyboard.press("ArrowRight"));
  await expect.poll(async () => Number(await mark.getAttribute("data-x"))).toBeCloseTo(x + 10, 3);
  await saved(page, () => page.keyboard.press("Shift+ArrowLeft"));
  await expect.poll(async () => Number(await mark.getAttribute("data-x"))).toBeCloseTo(x + 9, 3);
  await saved(page, () => page.keyboard.press("r"));
  await expect(page.getByRole("region", { name: "Panels on the roof" })).toContainText("crosswise");
  await saved(page, () => page.keyboard.press("d"));
  await expect(page.locator("#plan .panel-mark")).toHaveCount(2);
  await saved(page, () => page.keyboard.press("Delete"));
  await expect(page.locator("#plan .panel-mark")).toHaveCount(1);
  await saved(page, () => page.keyboard.press("z"));
  await expect(page.locator("#plan .panel-mark")).toHaveCount(2);
  await saved(page, () => page.keyboard.press("z"));
  await saved(page, () => page.keyboard.press("z"));
  await expect(page.getByRole("region", { name: "Panels on the roof" })).toContainText("along");
  await saved(page, () => page.keyboard.press("Shift+Z"));
  await expect(page.getByRole("region", { name: "Panels on the roof" })).toContainText("crosswise");
  await page.getByRole("button", { name: "Zoom in" }).click();
  const zoomed = await page.locator("#plan").getAttribute("viewBox");
  expect(zoomed).not.toMatch(/^0\.0 0\.0 916/);
  await mark.focus();
  await saved(page, () => page.keyboard.press("r"));
  await expect(page.locator("#plan")).toHaveAttribute("viewBox", zoomed!);
  await saved(page, () => page.keyboard.press("z"));
  await page.keyboard.press("0");
  await page.keyboard.press("?");
  await expect(page.locator("#keys")).toBeVisible();
  await page.keyboard.press("Escape");

  // By the table alone, as a screen reader has it.
  await write(page, await page.getByRole("region", { name: "Panels on the roof" }).getByLabel("From nose").getAttribute("id") as string, "1.2 m");
  await expect(mark).toHaveAttribute("data-x", "1200");
  await page.reload();
  await expect(mark).toHaveAttribute("data-x", "1200");
});

test("panels are chained on the plan in the order they are pointed at", async ({ page }) => {
  await newJob(page, "Chained", "metric");
  await write(page, "f-rig-length_mm", "6 m");
  await write(page, "f-rig-width_mm", "2.2 m");
  await stage(page, "Roof").click();
  for (let i = 0; i < 3; i++) await saved(page, () => page.locator(".palette li", { hasText: "slim 118 W" }).getByRole("button").click());
  await stage(page, "Strings").click();
  await saved(page, () => page.getByRole("button", { name: "Start string A" }).click());
  for (const n of [2, 0]) await saved(page, () => page.locator("#plan .panel-mark").nth(n).click());
  await page.locator("#plan .panel-mark").nth(1).focus();
  await saved(page, () => page.keyboard.press("Enter"));
  await expect(page.locator(".string-card")).toContainText("3 × slim 118 W in series");
  await expect(page.locator("#plan .panel-mark").nth(2), "a label does not change by itself").toContainText("P3");
  await saved(page, () => page.getByRole("button", { name: "Name panels by their strings" }).click());
  await expect(page.locator("#plan .panel-mark").nth(2)).toContainText("A1");
  await expect(page.locator("#plan .panel-mark").nth(0)).toContainText("A2");
  await saved(page, () => page.locator("#plan .panel-mark").nth(0).click());
  await expect(page.locator(".string-card")).toContainText("2 × slim 118 W in series");
});

test("bad input is said at its field and nothing is lost", async ({ page }) => {
  const job = await newJob(page, "Slips of the pen");
  await write(page, "f-rig-length_mm", "900 m");
  await expect(page.locator("#f-rig-length_mm-wrong")).toContainText("over 100 m");
  await expect(page.locator("#f-rig-length_mm")).toHaveValue("900 m");
  await expect(page.locator("#f-rig-length_mm")).toHaveAttribute("aria-invalid", "true");
  await write(page, "f-rig-length_mm", "4' 1");
  await write(page, "f-rig-width_mm", "3' 2");
  await expect(page.locator("#f-rig-length_mm-wrong")).toBeHidden();

  // A panel larger than the roof is put on all the same, and said to be so.
  await stage(page, "Roof").click();
  await saved(page, () => page.locator(".palette li", { hasText: "high-voltage 345 W" }).getByRole("button", { name: "Does not fit. Add anyway" }).click());
  await expect(page.locator("#findings .finding.stop").first()).toContainText("larger than the roof");

  // The program goes away while something is typed: it stays in its field.
  await page.goto(`${job}/survey`);
  await unfold(page.locator("#f-job-place"));
  await page.route("**/api/**", (route) => route.abort());
  await page.locator("#f-job-place").fill("the far field");
  await page.locator("#f-job-place").blur();
  await expect(page.locator("#waiting")).toHaveText("1 waiting");
  await expect(page.locator("#f-job-place")).toHaveValue("the far field");
  await page.unroute("**/api/**");
  await write(page, "f-job-place", "the far field, gate 2");
  await page.reload();
  await expect(page.locator("#f-job-place")).toHaveValue("the far field, gate 2");
});

test("the board finds jobs, takes job files in and refuses what is none", async ({ page }) => {
  await page.goto("/");
  await page.getByRole("searchbox").fill("otter");
  await page.keyboard.press("Enter");
  await expect(page.locator(".job-card")).toHaveCount(1);
  await page.getByRole("searchbox").fill("nobody at all");
  await page.keyboard.press("Enter");
  await expect(page.locator(".empty")).toContainText("No job has");
  await page.goto("/");
  const file = page.getByLabel("Job file (JSON)");
  await file.setInputFiles({ name: "notes.json", mimeType: "application/json", buffer: Buffer.from('{"format": "velvet-road-job", "version": 1, "title": 3') });
  await page.getByRole("button", { name: "Bring it in" }).click();
  await expect(page.getByRole("alert").first()).toContainText("line 1, column");
  await accessible(page);

  // Out and in again, as a copy.
  await page.locator(".job-card.signed").first().click();
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "Job file" }).click();
  const path = await (await download).path();
  await page.goto("/");
  await file.setInputFiles(path);
  await page.getByRole("checkbox", { name: /as a copy/ }).check();
  await page.getByRole("button", { name: "Bring it in" }).click();
  await expect(page.locator(".signed-note")).toContainText("Signed off by");
});

test("two windows on one job: one hears of the other", async ({ page, context }) => {
  await page.route("**/events*", (route) => route.abort()); // this one stays behind
  const job = await newJob(page, "Two at once");
  const other = await context.newPage();
  await other.goto(`${job}/survey`);
  await write(page, "f-job-customer", "Mine");
  await write(other, "f-job-place", "Theirs"); // another field: both stand
  await expect(other.locator("#f-job-customer")).toHaveValue("Mine");
  await write(page, "f-job-place", "Mine too");
  await expect(page.getByRole("dialog")).toContainText("changed the same");
  await other.close();
});

test("an entry is moved on the plan, and a run's path by its corners", async ({ page }) => {
  // A copy of the demo's caravan, so that the demo itself stays as it is.
  await page.goto("/");
  await page.locator(".job-card", { hasText: "Three panels, one controller" }).last().click();
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "Job file" }).click();
  const path = await (await download).path();
  await page.goto("/");
  await page.getByLabel("Job file (JSON)").setInputFiles(path);
  await page.getByRole("checkbox", { name: /as a copy/ }).check();
  await page.getByRole("button", { name: "Bring it in" }).click();
  await page.waitForURL(/\/holes$/);

  await saved(page, () => page.getByRole("button", { name: "Place the entry over the Kitchen locker" }).click());
  const mark = page.locator("#plan .entry-mark");
  await page.locator("details.passed > summary").click();
  await expect(page.locator("#findings")).toContainText("comes down in Kitchen locker");
  const box = (await mark.locator(".entry").boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + 300, box.y + 10, { steps: 6 });
  await saved(page, () => page.mouse.up());
  await expect(page.locator("#findings")).toContainText("no cupboard is under it");
  const x = Number(await mark.getAttribute("data-x"));
  await mark.focus();
  await saved(page, () => page.keyboard.press("ArrowRight"));
  await expect.poll(async () => Number(await mark.getAttribute("data-x"))).toBeCloseTo(x + 10, 3);
  await saved(page, () => page.locator("tr", { hasText: "Over the Kitchen locker" }).getByRole("button", { name: "Move Entry 1 here" }).click());

  await stage(page, "Cables").click();
  const run = page.locator("section.card", { hasText: "Home run to Ctrl 1" });
  await run.getByText(/^Path: \d+ legs, proposed/).click();
  const before = await run.locator(".figures dd").first().innerText();
  await saved(page, () => run.getByRole("button", { name: "Corner before" }).first().click());
  await expect(run.getByText(/^Path: \d+ legs, drawn/)).toBeVisible();
  await expect(run.locator(".figures dd").first()).toHaveText(before); // a corner on a straight leg adds nothing
  const corner = run.getByRole("region", { name: /Path of home run/ }).getByLabel("From street side").nth(1);
  await corner.fill("2.1 m");
  await saved(page, () => corner.blur());
  await expect(run.locator(".figures dd").first()).not.toHaveText(before);
  await saved(page, () => run.getByRole("button", { name: "Back to the proposed path" }).click());
  await expect(run.locator(".figures dd").first()).toHaveText(before);

  // By hand on the sheet: a new corner is pulled out of a leg, moved by a key and left out.
  await run.getByRole("button", { name: "Bend it on the sheet" }).click();
  await expect(page.locator(".hand")).toContainText("Home run to Ctrl 1");
  const corners = page.locator("#plan .bend-mark:not(.new)");
  const had = await corners.count();
  await page.locator("#plan").scrollIntoViewIfNeeded();
  const ring = (await page.locator("#plan .bend-mark.new .bend-hold").first().boundingBox())!;
  await page.mouse.move(ring.x + ring.width / 2, ring.y + ring.height / 2);
  await page.mouse.down();
  await page.mouse.move(ring.x + 20, ring.y + 40, { steps: 5 });
  await saved(page, () => page.mouse.up());
  await expect(corners).toHaveCount(had + 1);
  await expect(run.locator(".figures dd").first()).not.toHaveText(before);
  const pulled = corners.first();
  const right = Number(await pulled.getAttribute("data-x"));
  await pulled.focus();
  await saved(page, () => page.keyboard.press("ArrowRight"));
  await expect.poll(async () => Number(await pulled.getAttribute("data-x"))).toBeCloseTo(right + 10, 3);
  await saved(page, () => page.keyboard.press("Delete"));
  await expect(corners).toHaveCount(had);
  await expect(run.locator(".figures dd").first()).toHaveText(before);
  await page.locator(".hand").getByRole("button", { name: "Done" }).click();
  await expect(corners).toHaveCount(0);

  await run.getByLabel("Measured").fill("4.7 m");
  await saved(page, () => run.getByLabel("Measured").blur());
  await expect(run.locator(".figures dd").first()).toHaveText("4.7 m");

  // What the factory cable would do is beside the shelf's.
  await stage(page, "Survey").click();
  await write(page, "f-rig-factory_cable-conductor", "4mm2");
  await write(page, "f-rig-factory_cable-one_way_mm", "6 m");
  await stage(page, "Cables").click();
  await page.locator(".passed summary").click(); // fine findings come when they are opened
  await expect(page.locator("tr.factory")).toContainText("factory 4 mm2, 6 m");
  await expect(page.locator("#findings")).toContainText("Home run to Ctrl 1: the factory 4 mm² instead carries");
});
