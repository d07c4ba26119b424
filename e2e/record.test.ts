import { execFileSync } from "node:child_process";
import { accessible, copied, expect, pick, saved, stage, test } from "./page";

test("what was built otherwise is recorded with its reason, and serials come from a photo", async ({ page }) => {
  await copied(page);
  await page.setViewportSize({ width: 390, height: 844 });
  await stage(page, "Record").click();
  const current = page.locator(".built-list li.current");
  await expect(current).toContainText("A1");

  // Outside check: zint draws a bar code and a square one, which the page reads from a photo.
  for (const [kind, text] of [["20", "PV 88-20417-C"], ["58", "sn:2217/04"]] as const) {
    const photo = execFileSync("zint", ["-b", kind, "--direct", "--filetype=png", "--scale=3", "--whitesp=8", "--vwhitesp=8", "-d", text]);
    await current.locator("input[type=file]").setInputFiles({ name: "label.png", mimeType: "image/png", buffer: photo });
    await expect(current.getByLabel("Serial number")).toHaveValue(text);
  }
  await current.locator("input[type=file]").setInputFiles({ name: "label.heic", mimeType: "image/heic", buffer: Buffer.from("\0\0\0\u0018ftypheic") });
  await expect(page.locator("#toast")).toContainText("That is no photo that this browser can read");
  await expect(current.getByLabel("Serial number")).toHaveValue("sn:2217/04");
  await current.getByLabel("Tightened to").fill("5.5");
  await current.getByLabel("Sealant batch").fill("LS-0911");
  await saved(page, () => current.getByRole("button", { name: "Save" }).click());
  await expect(page.locator(".built-list li.done").first()).toContainText("Serial sn:2217/04. Tightened to 5.5 N·m. Sealant LS-0911.");
  await expect(page.locator(".built-list li.done").first()).toContainText("Wren Castellane");

  const built = current.locator("form[data-form^=built]");
  // The next panel is left out: what that does is said.
  await expect(current).toContainText("A2");
  await built.getByText("left out", { exact: true }).click();
  await saved(page, () => built.getByRole("button", { name: "Save" }).click());
  await expect(current.locator(".wrong:visible")).toContainText("say why");
  await built.getByLabel("Why").fill("a vent pipe was higher than surveyed");
  await saved(page, () => built.getByRole("button", { name: "Save" }).click());
  await expect(page.locator("#differs")).toContainText("String A has 2 in series instead of 3");
  await expect(page.locator("#differs")).toContainText("a vent pipe was higher than surveyed");

  // The string is wired otherwise; a name that is no panel's is said at its field.
  await page.locator(".built-list").getByRole("button", { name: "String A", exact: true }).click();
  await built.getByText("wired otherwise", { exact: true }).click();
  await built.getByLabel("Why").fill("the lead was short");
  await built.getByLabel("Panels from plus to minus").fill("A3 A9");
  await saved(page, () => built.getByRole("button", { name: "Save" }).click());
  await expect(current.locator(".wrong:visible")).toContainText('no panel "A9"');
  await built.getByLabel("Panels from plus to minus").fill("A3 A1");
  await saved(page, () => built.getByRole("button", { name: "Save" }).click());
  await expect(page.locator("#differs")).toContainText("wired otherwise: A3 and A1");

  // A foot by itself, what was chosen staying chosen; a photo has its mark where its thing is.
  await page.locator(".built-list").getByRole("button", { name: "A3", exact: true }).click();
  await current.getByText("A foot of it is otherwise").click();
  const foot = current.locator("form[data-form^=detail]");
  await foot.getByLabel("Foot", { exact: true }).selectOption("2");
  await expect(foot.getByLabel("An added one stands on the")).toBeHidden();
  await foot.getByLabel("Along the long side").fill("900");
  await saved(page, () => foot.getByRole("button", { name: "Write it down" }).click());
  await expect(foot.locator(".wrong:visible")).toContainText("say why");
  await foot.getByLabel("Why").fill("a seam");
  await saved(page, () => foot.getByRole("button", { name: "Write it down" }).click());
  await expect(page.locator("#differs")).toContainText(/A3, foot 2\s*moved: 900 mm along its side\s*a seam/);
  await expect(current.getByLabel("Now, from the nose"), "what is not asked for stays away").toBeHidden();
  await expect(page.locator("#small .foot-was")).toHaveCount(2);
  await page.locator("#photo-file").setInputFiles({ name: "seam.png", mimeType: "image/png", buffer: execFileSync("zint", ["--direct", "--filetype=png", "-d", "seam"]) });
  await pick(page.locator("#photo-about"), "A3");
  await page.locator("#photos").getByRole("button", { name: "Add the photo" }).click();
  const mark = page.locator("#small").getByRole("link", { name: "photo 1: A3" });
  await expect(page.locator(`#photos ${await mark.getAttribute("href")}`)).toContainText("1. A3");

  // The customer signs with a finger; who worked how long is written down.
  const agreed = page.locator("#agreed");
  await saved(page, () => agreed.getByRole("button", { name: "They agree" }).click());
  await expect(agreed.locator(".wrong:visible")).toContainText("write what they were told");
  await agreed.getByLabel("What they were told").fill("A2 stays off");
  const box = (await agreed.locator("svg.ink").boundingBox())!;
  await page.mouse.move(box.x + 20, box.y + 30);
  await page.mouse.down();
  for (const [x, y] of [[60, 80], [120, 30], [180, 90]] as const) await page.mouse.move(box.x + x, box.y + y, { steps: 3 });
  await page.mouse.up();
  await saved(page, () => agreed.getByRole("button", { name: "They agree" }).click());
  await expect(agreed).toContainText("A2 stays off");
  await expect(agreed.getByRole("img", { name: "Signature", exact: true }).locator("path")).toHaveAttribute("d", /^M\d+ \d+ L/);
  const spent = page.locator("#spent");
  await spent.getByLabel("How long").fill("2.5");
  await saved(page, () => spent.getByRole("button", { name: "Add the time" }).click());
  await expect(spent).toContainText("Survey 2.5 h (Wren Castellane)");
  await accessible(page);
});
