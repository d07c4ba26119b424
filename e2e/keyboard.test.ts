import { expect, saved, test } from "./page";
import type { Locator, Page } from "@playwright/test";

/** Tabs to something as a person without a pointer does; fails where Tab does not lead there. */
async function reach(page: Page, to: Locator, most = 250) {
  await expect(to.first()).toBeVisible();
  for (let n = 0; n < most; n++) {
    if (await to.first().evaluate((el) => el === document.activeElement)) return;
    await page.keyboard.press("Tab");
  }
  throw new Error(`Tab does not reach ${to} in ${most} steps`);
}

/** Presses something with Enter, and waits for what it saves. */
async function press(page: Page, to: Locator, key = "Enter") {
  await reach(page, to);
  await saved(page, () => page.keyboard.press(key));
}

/** Goes to another page by its link. */
async function follow(page: Page, to: Locator) {
  await reach(page, to);
  const from = page.url();
  await Promise.all([page.waitForURL((url) => url.href !== from), page.keyboard.press("Enter")]);
}

const stage = (page: Page, name: string) => page.getByRole("navigation", { name: "The job's road" }).getByRole("link", { name: new RegExp(name) });

// No pointer is used from the board to the signature.
test("a whole job is done by keyboard alone", async ({ page }) => {
  test.setTimeout(120_000);
  await page.goto("/");
  const write = async (to: Locator, text: string) => {
    await reach(page, to);
    await page.keyboard.press("ControlOrMeta+a");
    await page.keyboard.type(text);
  };
  await write(page.getByLabel("Job", { exact: true }), "By keyboard");
  await reach(page, page.locator("#units"));
  await page.keyboard.type("milli"); // the list finds what is typed
  await reach(page, page.getByRole("button", { name: /Start the job/ }));
  await Promise.all([page.waitForURL(/ask$/), page.keyboard.press("Enter")]);
  await press(page, page.getByRole("button", { name: "Compressor fridge" }));
  await reach(page, page.getByRole("link", { name: /Survey/ }));
  await Promise.all([page.waitForURL(/survey$/), page.keyboard.press("Enter")]);

  for (const [id, text] of [["rig-length_mm", "6100"], ["rig-width_mm", "2250"]]) {
    await write(page.locator(`#f-${id}`), text);
    await saved(page, () => page.keyboard.press("Tab"));
  }
  // Folds open with Enter; what is inside is reached after that.
  const inside = page.locator("#survey-inside > summary");
  await reach(page, inside);
  if (!(await page.locator("#survey-inside").getAttribute("open"))) await page.keyboard.press("Enter");
  if (!(await page.locator("#f-rig-inside_height_mm").isVisible())) await page.keyboard.press("Enter");
  await write(page.locator("#f-rig-inside_height_mm"), "1950");
  await saved(page, () => page.keyboard.press("Tab"));
  // By keyboard a thing goes to the middle, and its distance is typed after that.
  await press(page, page.getByRole("button", { name: "Fan", exact: true }));
  await expect(page.locator("#tape-nose")).toBeFocused();
  await page.keyboard.press("ControlOrMeta+a");
  await page.keyboard.type("4300");
  await saved(page, () => page.keyboard.press("Tab"));
  await press(page, page.getByRole("button", { name: "Equipment board", exact: true }));
  await press(page, page.getByRole("button", { name: "Battery", exact: true }));

  await follow(page, stage(page, "Roof"));
  const panel = page.locator(".palette li", { hasText: "mid 172 W" }).getByRole("button");
  await press(page, panel);
  await press(page, panel);
  await expect(page.locator("#plan .panel-mark")).toHaveCount(2);
  await reach(page, page.locator("#plan .panel-mark").first());
  const x = Number(await page.locator("#plan .panel-mark").first().getAttribute("data-x"));
  await saved(page, () => page.keyboard.press("ArrowRight"));
  await expect.poll(async () => Number(await page.locator("#plan .panel-mark").first().getAttribute("data-x"))).toBeCloseTo(x + 10, 3);

  await follow(page, stage(page, "Strings"));
  await follow(page, page.getByRole("link", { name: /wiring options/ }).first());
  await reach(page, page.getByRole("button", { name: "Use this option" }).first());
  await Promise.all([page.waitForURL(/strings/), page.keyboard.press("Enter")]);
  await expect(page.locator(".string-card").first()).toBeVisible();

  await follow(page, stage(page, "Holes"));
  await press(page, page.getByRole("button", { name: "Place one where the roof is free, to be moved" }));
  await follow(page, stage(page, "Cables"));
  for (let n = 0; n < 6; n++) {
    await page.waitForTimeout(200);
    const cure = page.locator("#to-check .cure button").first();
    if (!(await cure.count())) break;
    await press(page, cure);
  }
  await expect(page.locator("#to-check .finding.stop")).toHaveCount(0);

  await follow(page, stage(page, "Record"));
  await press(page, page.getByRole("button", { name: /^The rest as planned/ }));
  await write(page.getByLabel(/^Serial of /).first(), "K-17");
  await saved(page, () => page.keyboard.press("Tab"));
  await write(page.getByLabel(/^Remark/), "done without a pointer");
  await press(page, page.getByRole("button", { name: "Sign off" }));
  await expect(page.locator(".signed-note")).toBeVisible();
});
