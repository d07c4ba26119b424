import { accessible, expect, newJob, saved, stage, test, write } from "./page";

// A lead on a ladder: the outline walked round with a tape, things by kind with
// their lids and what becomes of them, from whichever side is near.
test("a roof is surveyed as a tape gives it", async ({ page }) => {
  const job = await newJob(page, "By tape", "metric");
  await page.getByText("Outline and flat part: a plain rectangle").click();
  const walk = page.getByLabel(/^Or walk round it/);
  await walk.fill("tail 5200\ncurb 2150\nnose 5200\nstreet 2100");
  await page.getByRole("button", { name: "Set the outline" }).click();
  await expect(page.locator("#f-outline-walk-wrong")).toContainText("the chain does not close: it ends 0 mm to the tail and 50 mm to the curb side");
  await expect(walk, "what was typed stays").toHaveValue(/street 2100/);
  await walk.fill("tail 5200\ncurb 2150\nnose 4600\nstreet 300\nnose 600\nstreet 1850");
  await saved(page, () => page.getByRole("button", { name: "Set the outline" }).click());
  await expect(page.locator("#survey-outline summary")).toContainText("6 corners");
  await expect(page.locator("#f-rig-length_mm")).toHaveValue("5200 mm");
  await expect(page.locator("#plan polygon.roof")).toBeVisible();

  await saved(page, () => page.getByRole("button", { name: "Air conditioner" }).click());
  const things = page.getByRole("region", { name: "Obstructions on the roof" });
  const place = things.getByLabel("From nose", { exact: true });
  await place.fill("tail 900");
  await saved(page, () => place.blur());
  await expect(place).toHaveValue("3550 mm");
  await place.fill("tail far");
  await place.blur();
  await expect(things.locator(".wrong:visible")).toContainText('after "tail" write its distance');
  await place.fill("3550");
  await saved(page, () => place.blur());
  await things.locator("summary").first().click();
  await things.getByLabel("Again, from the tail").fill("925");
  await saved(page, () => things.getByLabel("Again, from the tail").blur());
  await expect(page.locator("#findings")).toContainText("it differs by 25 mm");
  await expect(page.locator("#plan .strip.hot")).toBeVisible();
  await saved(page, () => things.getByLabel("What happens to it").selectOption("removed"));
  await expect(page.locator("#plan .thing-gone").first()).toBeVisible();
  await expect(page.locator("#plan .strip")).toHaveCount(0);
  await saved(page, () => things.getByLabel("What happens to it").selectOption("stays"));

  // A way for a person that a panel must keep off; the plan says so at once.
  await page.getByText("Walkways: where a person passes and kneels: none").click();
  await saved(page, () => page.getByRole("button", { name: "Add a walkway" }).click());
  await accessible(page);
  await stage(page, "Roof").click();
  await saved(page, () => page.locator(".palette li", { hasText: "mid 172 W" }).getByRole("button").click());
  const mark = page.locator("#plan .panel-mark").first();
  await mark.focus();
  for (let i = 0; i < 40; i++) await page.keyboard.press("ArrowDown");
  await expect(page.locator("#grave")).toContainText("where a person must pass");
  await page.waitForTimeout(400);
  await saved(page, () => page.keyboard.press("z"));

  // Kept for the next job, which starts from it.
  await page.goto(`${job}/survey`);
  await write(page, "f-rig-name", "A rig to keep");
  await page.getByRole("button", { name: "Keep this rig" }).click();
  await expect(page.locator(".rig-kept")).toContainText("Nothing differs");
  await page.goto("/");
  await page.getByLabel("Job", { exact: true }).fill("Such a rig again");
  await page.locator("#units").selectOption("metric");
  await page.locator("#rig").selectOption({ label: "A rig to keep" });
  await page.getByRole("button", { name: /Start the job/ }).click();
  await page.waitForURL(/\/(survey|roof)$/);
  await page.goto(page.url().replace(/\/roof$/, "/survey"));
  await expect(page.locator("#f-rig-length_mm")).toHaveValue("5200 mm");
});

test("photos and drawings come in by the browser, and what is none is told", async ({ page }) => {
  const job = await newJob(page, "With a drawing", "metric");
  const dxf = ["0", "SECTION", "2", "ENTITIES", "0", "LWPOLYLINE", "8", "ROOF", "70", "1", "10", "0", "20", "0", "10", "4800", "20", "0", "10", "4800", "20", "2000", "10", "0", "20", "2000", "0", "ENDSEC", "0", "EOF", ""].join("\n");
  await page.getByText("Outline and flat part").click();
  await page.locator("#outline-file").setInputFiles({ name: "roof.dxf", mimeType: "application/dxf", buffer: Buffer.from(dxf) });
  await page.getByRole("button", { name: "Read the file" }).click();
  await page.waitForURL(/\/survey$/);
  await expect(page.locator("#f-rig-length_mm")).toHaveValue("4800 mm");
  await page.locator("#outline-file").setInputFiles({ name: "none.dxf", mimeType: "application/dxf", buffer: Buffer.from("0\nEOF\n") });
  await page.getByRole("button", { name: "Read the file" }).click();
  await expect(page.getByRole("alert")).toContainText("there is no closed polyline in it");
  await page.getByRole("link", { name: "Back to the job" }).click();

  // A photo larger than anybody needs is made smaller before it is sent.
  const picture = await page.evaluate(async () => {
    const canvas = document.createElement("canvas");
    canvas.width = 3000;
    canvas.height = 2000;
    canvas.getContext("2d")!.fillRect(100, 100, 900, 900);
    const blob = await new Promise<Blob>((done) => canvas.toBlob((b) => done(b!), "image/png"));
    return [...new Uint8Array(await blob.arrayBuffer())];
  });
  await page.locator("#photo-file").setInputFiles({ name: "roof.png", mimeType: "image/png", buffer: Buffer.from(picture) });
  await page.getByPlaceholder("what to see on it").fill("the whole roof");
  const done = page.waitForNavigation();
  await page.getByRole("button", { name: "Add the photo" }).click();
  await done;
  const image = page.getByRole("img", { name: "the whole roof" });
  await expect(image).toBeVisible();
  await image.scrollIntoViewIfNeeded();
  await expect.poll(() => image.evaluate((i) => (i as HTMLImageElement).naturalWidth)).toBe(1600);
  await page.locator("#photo-file").setInputFiles({ name: "notes.png", mimeType: "image/png", buffer: Buffer.from("no picture") });
  await page.getByRole("button", { name: "Add the photo" }).click();
  await expect(page.locator("#toast")).toContainText("is no JPEG or PNG picture");
  await accessible(page);
  expect(job).toBeTruthy();
});
