import { accessible, expect, newJob, pick, saved, stage, test, write } from "./page";

// A lead on the roof with a laptop: layouts are worked out, one is taken over,
// edited by hand, and marked out point by point.
test("layouts are worked out, taken over, arranged by hand and ticked off", async ({ page }) => {
  test.setTimeout(120_000);
  const job = await newJob(page, "Worked out", "metric");
  await write(page, "f-rig-length_mm", "4600");
  await write(page, "f-rig-width_mm", "2100");
  await write(page, "f-rig-framing_first_mm", "300");
  await write(page, "f-rig-framing_spacing_mm", "400");
  await saved(page, () => page.getByRole("button", { name: "Hatch", exact: true }).dblclick());
  await stage(page, "Roof").click();
  await page.getByRole("link", { name: "Work out layouts" }).click();
  await page.getByLabel(/^long 228 W/).fill("some");
  await page.getByRole("button", { name: "Work out layouts" }).click();
  await expect(page.locator(".layouts .wrong")).toContainText('"some" is no count');
  await page.getByLabel(/^long 228 W/).fill("any");
  await page.getByLabel(/^slim 118 W/).fill("3");
  await page.getByRole("button", { name: "Work out layouts" }).click();
  await expect(page.getByRole("status")).toHaveText("6 of 6 worked out", { timeout: 30_000 });
  // Of every figure the best is marked, and nothing where all are the same.
  const shown = await page.locator('[data-figure="watts"]').evaluateAll((all) => all.map((el) => ({ value: Number((el as HTMLElement).dataset.value), best: el.classList.contains("best") })));
  const highest = Math.max(...shown.map((w) => w.value));
  for (const w of shown) expect(w.best).toBe(w.value === highest);
  await expect(page.locator('.layout-card:not([data-goal="own"])')).toHaveCount(6);
  await accessible(page);
  const most = page.locator('.layout-card[data-goal="watts"]');
  const watts = (await most.locator(".lead dd").innerText()).replace(/\D/g, "");
  const prints = await page.locator(".layout-card").evaluateAll((all) => new Set(all.map((c) => (c as HTMLElement).dataset.print)).size);
  expect(prints).toBeGreaterThanOrEqual(3);

  await most.getByRole("button", { name: "Use this layout" }).click();
  await page.waitForURL(/\/roof$/);
  await expect(page.locator(".totals")).toContainText(Number(watts).toLocaleString("en"));
  await expect(page.locator("#findings .finding.stop")).toHaveCount(0);

  // Two selected with Shift: aligned, moved together, locked.
  const marks = page.locator("#plan .panel-mark");
  const at = (i: number, axis: "x" | "y") => marks.nth(i).getAttribute(`data-${axis}`).then(Number);
  await page.locator("#plan .panel-mark").first().click();
  await expect(page.locator("#plan .mark-selected")).toHaveCount(1);
  await expect(page.locator("#plan .foot-mark").first()).toBeVisible();
  await marks.nth(1).click({ modifiers: ["Shift"] });
  await expect(page.locator("#plan .mark-selected")).toHaveCount(2);
  const [x0, x1] = [await at(0, "x"), await at(1, "x")];
  await marks.nth(0).focus();
  await saved(page, () => page.keyboard.press("Shift+ArrowRight"));
  expect([await at(0, "x"), await at(1, "x")]).toEqual([x0 + 1, x1 + 1]);
  await saved(page, () => page.locator(".on-panel").getByRole("button", { name: "Lock" }).click());
  await expect(page.locator("#plan .panel-mark[data-locked]")).toHaveCount(2);
  await marks.nth(0).focus();
  await page.keyboard.press("ArrowRight");
  await page.waitForTimeout(400);
  expect(await at(0, "x"), "locked stays").toBe(x0 + 1);

  // A foot along its side, by key and back.
  await marks.nth(2).click();
  const foot = page.locator("#plan .foot-mark").first();
  const before = await foot.getAttribute("data-feet");
  await foot.focus();
  const key = (await foot.getAttribute("data-axis")) === "x" ? "ArrowRight" : "ArrowDown";
  await saved(page, () => page.keyboard.press(key));
  expect(Number((await foot.getAttribute("data-feet"))!.split(" ")[0])).toBeCloseTo(Number(before!.split(" ")[0]) + 10, 3);

  // On the phone: one point after another.
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto(`${job}/markout`);
  await accessible(page);
  const now = page.locator("#point-now");
  const first = await now.locator("h2").innerText();
  await saved(page, () => now.getByRole("button", { name: "Marked: the next one" }).click());
  await expect(now.locator("h2")).not.toHaveText(first);
  await expect(page.locator(".points .done")).toHaveCount(1);
  await saved(page, () => page.locator(".points .done").getByRole("button", { name: "Take it back" }).click());
  await expect(now.locator("h2")).toHaveText(first);
  const wide = await page.evaluate(() => document.documentElement.scrollWidth);
  expect(wide).toBeLessThanOrEqual(390);

  for (const kind of ["pdf", "svg", "dxf", "csv"]) {
    const response = await page.request.get(`${job}/markout.${kind}`);
    expect(response.status(), kind).toBe(200);
    expect((await response.body()).length).toBeGreaterThan(500);
  }
});

test("a search is stopped and what was found stands", async ({ page }) => {
  await newJob(page, "Stopped", "metric");
  await write(page, "f-rig-length_mm", "11 m");
  await write(page, "f-rig-width_mm", "2400");
  await page.goto(page.url().replace("survey", "layouts"));
  for (const name of [/^long 228 W/, /^slim 118 W/, /^small 62 W/, /^half-length/]) await page.getByLabel(name).fill("any");
  await page.locator("#marks").selectOption("fine");
  await page.getByRole("button", { name: "Work out layouts" }).click();
  await expect(page.locator(".layout-card").first()).toBeVisible({ timeout: 20_000 });
  await page.getByRole("button", { name: /^Stop/ }).click();
  await expect(page.getByRole("status")).toHaveText("Stopped; what was found stands");
  await expect(page.getByRole("button", { name: "Work out layouts" })).toBeEnabled();
  const further = page.getByRole("button", { name: "Look further" }).first();
  if (await further.isVisible()) {
    const was = await page.locator(".layout-card .lead dd").first().innerText();
    await further.click();
    await expect(page.getByRole("button", { name: "Work out layouts" })).toBeEnabled({ timeout: 30_000 });
    const now = await page.locator(".layout-card .lead dd").first().innerText();
    expect(Number(now.replace(/\D/g, ""))).toBeGreaterThanOrEqual(Number(was.replace(/\D/g, "")));
  }
});

test("curves follow the sliders, and a wiring is picked with its reason", async ({ page }) => {
  await page.goto("/");
  const half = (await page.locator(".job-card", { has: page.locator('.job-number:text-is("64")') }).getAttribute("href"))!;
  await page.goto(`${half}/curves`);
  const watts = () => page.locator("#curve-sheet dd").first().innerText();
  const before = await watts();
  await page.getByRole("slider", { name: "Sun", exact: true }).fill("400");
  await expect.poll(watts).not.toBe(before);
  expect(Number((await watts()).split(" ")[0])).toBeLessThan(Number(before.split(" ")[0]));
  await expect(page.locator("#curve-sheet svg")).toHaveCount(1);
  const open = await watts();
  await pick(page.getByLabel("Sun is"), "over the street side");
  await page.getByLabel(/^Sun's height/).fill("10");
  await expect.poll(watts).not.toBe(open);
  expect(page.url()).toContain("from=street");
  await page.goto(`${half}/wirings`);
  await page.getByRole("navigation", { name: "What matters most" }).getByRole("link", { name: "Cheapest" }).click();
  await expect(page.getByText(/^The first is ahead of the second in /)).toBeVisible();
  await page.getByText("Your own weights").click();
  await page.getByLabel("Low cost").fill("7");
  await page.getByRole("button", { name: "Rank by these" }).click();
  await page.goto(`${half}/wirings`);
  await expect(page.getByLabel("Low cost")).toHaveValue("7"); // what counts is remembered
  await page.getByLabel(/^Why you choose it/).fill("trees at the lake");
  await page.locator(".side-by-side").getByRole("button", { name: "Use this option" }).last().click();
  await page.waitForURL(/\/strings$/);
  await page.goto(`${half}/history`);
  await expect(page.locator(".history li").first()).toContainText("trees at the lake");
  await page.goto(`${half}/strings`);
  await expect(page.locator(".picked")).toContainText("trees at the lake");
  await page.goto(`${half}/survey`);
  await write(page, "f-rig-coldest_c", "-21");
  await page.goto(`${half}/strings`);
  await expect(page.locator(".picked")).toContainText("a coldest morning of −21 °C instead of −6 °C");
  await page.locator(".picked").getByRole("link").click();
  await expect(page.locator(".pick-now")).toContainText("Because: trees at the lake");
  await page.goto(`${half}/strings`);
  for (let i = 0; i < 2; i++) await saved(page, () => page.getByRole("button", { name: /^Undo/ }).click());
  await expect(page.locator(".picked")).toHaveCount(0);
});

test("a panel without a label is estimated, and a portable one stands outside", async ({ page }) => {
  await page.goto("/shelf");
  await page.getByText("A panel whose label nobody can read").click();
  const form = page.locator('form[action="/shelf/estimate"]');
  await form.getByLabel("Name").fill("Boat panel");
  await form.getByLabel("Length").fill("1200");
  await form.getByLabel("Width").fill("550");
  await form.getByLabel("Open volts read").fill("21,5");
  await form.getByLabel("Air").fill("16");
  await form.getByRole("button", { name: "Calculate it" }).click();
  await expect(page.locator(".problems")).toContainText("21,5");
  await form.getByLabel("Open volts read").fill("21.5");
  await form.getByRole("button", { name: "Calculate it" }).click();
  await expect(page.locator(".estimate")).toContainText("36 cells");
  await accessible(page);

  await newJob(page, "Two sources", "metric");
  await write(page, "f-rig-length_mm", "6 m");
  await write(page, "f-rig-width_mm", "2.2 m");
  await stage(page, "Roof").click();
  await saved(page, () => page.locator(".palette li", { hasText: "slim 118 W" }).getByRole("button").click());
  await saved(page, () => page.getByRole("button", { name: "Add outside" }).click());
  await expect(page.locator("#plan")).toContainText("G1, portable");
  await stage(page, "Strings").click();
  await page.getByRole("link", { name: "All wiring options" }).click();
  await page.locator(".side-by-side").getByRole("button", { name: "Use this option" }).first().click();
  await page.waitForURL(/\/strings$/);
  await expect(page.locator(".string-card")).toHaveCount(2);
  await expect(page.locator(".string-card").last()).toContainText("1 × folding 146 W in series");
});
