import { accessible, expect, newJob, pick, saved, stage, test, write } from "./page";

// One job from the call to the signature, typed in as a lead would: every stage
// of the road, with its figures checked where they are shown.
test("a job goes down the whole road", async ({ page }) => {
  const job = await newJob(page, "Two panels on a trailer");
  const next = page.locator("a.next, p.next");

  // Ask: what they run, from the list; where they travel, by a town's name.
  await page.goto(`${job}/ask`);
  await expect(page.locator("section.card").first()).toContainText("Enter where the rig stands");
  await saved(page, () => page.getByRole("button", { name: "Compressor fridge" }).click());
  await page.getByLabel("Town", { exact: true }).fill("Reykjavik");
  await page.getByRole("button", { name: "Find" }).click();
  await saved(page, () => page.getByRole("button", { name: /Add a stay at Reykjav/ }).first().click());
  await expect(page.locator("section.card").first()).toContainText("Choose the bank's batteries first");
  await page.goto(`${job}/survey`);

  // Survey: lengths as people write them; the plan appears while one types.
  await expect(page.locator("#drawing")).toContainText("Measure the roof's length and width");
  await write(page, "f-rig-length_mm", `18' 6"`);
  await page.locator("#f-rig-width_mm").pressSequentially(`7 2 1/2`);
  await expect(page.locator("#plan .roof")).toBeVisible(); // before it is written
  await saved(page, () => page.locator("#f-rig-width_mm").blur());
  await expect(page.locator("#f-rig-width_mm")).toHaveValue(`7' 2 1/2"`);
  await expect(page.locator("#tape-length")).toHaveValue(`18' 6"`);
  await write(page, "f-rig-crown_mm", "1 1/2");
  await write(page, "f-rig-framing_first_mm", "16");
  await write(page, "f-rig-framing_spacing_mm", "16");
  await write(page, "f-rig-inside_height_mm", "6' 4\"");
  for (const [field, text] of [["board-x_mm", "5' 2\""], ["board-y_mm", "1'"], ["board-up", "3'"]]) await write(page, `f-rig-${field}`, text);
  for (const [label, text] of [["Battery, from nose", "2'"], ["Battery, from street side", "3'"], ["Battery, above the floor", "6"]]) {
    await page.getByLabel(label).fill(text);
    await saved(page, () => page.getByLabel(label).blur());
  }
  await write(page, "f-rig-coldest_c", "-15 C");
  await expect(page.locator("#f-rig-coldest_c")).toHaveValue("5"); // °F
  await saved(page, () => page.getByRole("button", { name: "Fan", exact: true }).dblclick());
  await write(page, "tape-nose", "9'");
  await write(page, "tape-street", "3'");
  const thing = page.locator(".hand");
  for (const [label, text] of [["What", "Bath fan"], ["Along", "14"], ["Across", "14"], ["Height", "5"]]) {
    await thing.getByLabel(label, { exact: true }).first().fill(text);
    await saved(page, () => thing.getByLabel(label, { exact: true }).first().blur());
  }
  await thing.getByRole("button", { name: "Done" }).click();
  await page.getByText("Cupboards and chases below the roof: none").click();
  await saved(page, () => page.getByRole("button", { name: "Add a cupboard" }).click());
  const cupboard = page.getByRole("region", { name: "Cupboards and chases below the roof" });
  for (const [label, text] of [["From nose", "4' 6\""], ["From street side", "6"], ["Along", "2'"], ["Across", "20"]]) {
    await cupboard.getByLabel(label).fill(text);
    await saved(page, () => cupboard.getByLabel(label).blur());
  }
  await expect(next).toContainText("put panels on the roof");

  // Roof: two panels from the shelf, one dragged.
  await next.click();
  await saved(page, () => page.locator(".palette li", { hasText: "long 228 W" }).getByRole("button").click());
  await saved(page, () => page.locator(".palette li", { hasText: "long 228 W" }).getByRole("button").click());
  await expect(page.locator("#plan .panel-mark")).toHaveCount(2);
  await expect(page.locator(".totals")).toContainText("456");

  // Strings: the wiring options are side by side; both in series.
  await stage(page, "Strings").click();
  await expect(page.getByRole("region", { name: "Options for long 228 W" })).toContainText("2 in series");
  await saved(page, () => page.getByRole("button", { name: "Use this option" }).first().click());
  await expect(page.locator(".string-card")).toContainText("2 × long 228 W in series");
  // 2 · 29.4 · (1 − 0.0027 · (−15 − 25)) = 65.15 V, worked by hand.
  await expect(page.locator(".string-card .figures")).toContainText("65.2 V");
  await expect(page.locator("#findings")).toContainText("String A: no controller at its end");
  await expect(page.locator("#plan .pole")).toHaveCount(2);

  // Controllers: the shelf tried on it; the disconnect is missing until chosen.
  await stage(page, "Controllers").click();
  const offered = page.getByRole("region", { name: "Controllers of the shelf" }).locator("tr", { hasText: "118 V 44 A" });
  await expect(offered).toContainText("OK");
  await saved(page, () => offered.getByRole("button").click());
  await expect(page.locator("#findings")).toContainText("Ctrl 1: no disconnect between the roof and it");
  await saved(page, () => pick(page.getByLabel("Disconnect", { exact: true }), "low-voltage breaker 25 A, 48 V"));
  await expect(page.locator("#findings .finding.stop", { hasText: "breaks only" })).toContainText("only 48 V DC; the array reaches 65.2 V");
  await saved(page, () => pick(page.getByLabel("Disconnect", { exact: true }), "two-pole DC breaker 16 A, 180 V"));
  await expect(page.locator("#findings .finding.stop")).toHaveCount(0);
  await page.locator("details.passed > summary").click(); // what is OK is folded, and comes when it is opened
  await page.locator("#findings .working summary").first().click();
  await expect(page.locator("#findings .working[open]")).toContainText("label of");

  // Holes: over the cupboard.
  await stage(page, "Holes").click();
  await saved(page, () => page.getByRole("button", { name: "Place the entry over the Cupboard 1" }).click());
  await expect(page.locator("#plan .entry-mark")).toHaveCount(1);
  await expect(page.locator(".figures").first()).toContainText("Cupboard 1");

  // Cables: the choices side by side, the fuse window, then nothing stops it.
  await stage(page, "Cables").click();
  // A path is looked for when somebody asks, and taken with what it needs.
  await page.locator("section.card", { hasText: "Home run to" }).first().getByRole("link", { name: "Find a path" }).click();
  const paths = page.getByRole("region", { name: /Paths found for home run/ });
  await expect(paths).toContainText("new holes", { ignoreCase: true });
  await saved(page, () => paths.getByRole("button", { name: "Use this path" }).first().click());
  await expect(paths).toContainText("chosen");
  await saved(page, () => page.getByRole("region", { name: /Cables for home run/ }).locator("tr", { hasText: "PV cable 12 AWG" }).getByRole("button").click());
  await saved(page, () => page.getByRole("region", { name: /Cables for Ctrl 1 to battery/ }).locator("tr", { hasText: "battery cable 4 AWG" }).getByRole("button").click());
  await expect(page.locator("#findings")).toContainText("no fuse yet. Add 60 A at its battery end (window 55 A to 90 A)");
  await saved(page, () => pick(page.getByLabel("Fuse at the battery"), "bolt-down fuse 60 A, 58 V"));
  await expect(page.locator("#findings .finding.stop")).toHaveCount(0);
  await expect(page.getByText("Cut list, both poles")).toBeVisible();

  // Record: one panel moved, the rest as planned, metered and signed.
  await stage(page, "Record").click();
  await page.locator(".segments").getByText("moved", { exact: true }).click();
  await page.locator("form[data-form^=built]").getByLabel("From nose").or(page.locator("form[data-form^=built]").getByLabel("Now, from the nose")).fill("5' 1\"");
  let refused = await saved(page, () => page.getByRole("button", { name: "Save", exact: true }).first().click());
  expect(refused.status()).toBe(422);
  await expect(page.locator("form[data-form^=built] .wrong:visible")).toContainText("say why it is not as planned");
  await page.locator("form[data-form^=built]").getByLabel("Why").fill("a seam under the feet");
  await saved(page, () => page.getByRole("button", { name: "Save", exact: true }).first().click());
  await expect(page.locator(".built-list")).toContainText("A seam under the feet.");
  await saved(page, () => page.getByRole("button", { name: /^The rest as planned: \d+ things$/ }).click());
  await expect(page.locator(".built-list .built-form")).toHaveCount(0);
  await expect(page.getByLabel(/^Serial of /).first(), "what is missing is asked for before signing").toBeVisible();
  await stage(page, "Prove").click();
  await page.locator(".prove-list summary", { hasText: /^\d+ String / }).first().click();
  await page.getByLabel("Open volts").fill("28.5");
  await saved(page, () => page.locator("form.reading").getByRole("button").click());
  await expect(page.locator(".verdict")).toContainText("reads like 1 in series, not 2");
  await page.getByLabel("Open volts").fill("57.4");
  await page.getByLabel("Short-circuit amps").fill("8.1");
  await saved(page, () => page.locator("form.reading").getByRole("button").click());
  await expect(page.locator(".verdict").first()).toContainText("2 in series, polarity right");
  await stage(page, "Record").click();
  await expect(page.locator(".verdict").first()).toContainText("2 in series, polarity right");
  await expect(page.locator(".beside .differs").first()).toBeVisible();
  // Nobody chose the battery: it is signed over that with a reason alone.
  refused = await saved(page, () => page.getByRole("button", { name: "Sign off" }).click());
  expect(refused.status()).toBe(422);
  await expect(page.locator(".wrong:visible")).toContainText("not finished in what was built: Battery");
  await page.getByLabel(/^Remark/).fill("the owner brings the battery");
  await saved(page, () => page.getByRole("button", { name: "Sign off" }).click());
  await expect(page.locator(".signed-note")).toContainText("Signed off by");
  await accessible(page);

  // Signed: nothing changes until it is reopened with a reason.
  await page.goto(`${job}/survey`);
  await expect(page.locator("#f-rig-length_mm")).toBeDisabled();
  await page.goto(`${job}/print`);
  await expect(page.locator("body")).toContainText("a seam under the feet", { ignoreCase: true });
  await accessible(page);
  await page.goto(`${job}/record`);
  await page.getByLabel("Why reopen it").fill("the customer wants a third panel");
  await saved(page, () => page.getByRole("button", { name: "Reopen" }).click());
  await expect(page.locator(".signed-note")).toHaveCount(0);
  await page.goto(`${job}/history`);
  await expect(page.locator(".history li").first()).toContainText("the customer wants a third panel");
});
