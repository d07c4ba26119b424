import { accessible, expect, newJob, pick, saved, stage, test, unfold, write } from "./page";

// A lead on a ladder: the outline walked round with a tape, things by kind with
// their lids and what becomes of them, from whichever side is near.
test("a roof is surveyed as a tape gives it", async ({ page }) => {
  const job = await newJob(page, "By tape", "metric");
  await unfold(page.locator("#outline-form"));
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

  // What is on the roof is put where the plan is touched, and its tape distances are
  // typed on the plan: from whichever side is near, or past something else.
  await page.getByRole("button", { name: "Air conditioner" }).click();
  await expect(page.getByRole("button", { name: "Air conditioner" })).toHaveAttribute("aria-pressed", "true");
  const plan = (await page.locator("#plan").boundingBox())!;
  await saved(page, () => page.locator("#plan").click({ position: { x: plan.width * 0.6, y: plan.height * 0.45 } }));
  const nose = page.locator("#tape-nose");
  const tail = page.locator("#tape-tail");
  await expect(nose).toBeFocused();
  // 5200 mm between the plan's ends: the touch is at the thing's middle, within a finger's 10 mm.
  const scale = await page.locator("#plan").evaluate((svg: SVGSVGElement) => ({ left: Number(svg.dataset.left), mm: Number(svg.dataset.scale), wide: svg.viewBox.baseVal.width }));
  const touched = (0.6 * scale.wide - scale.left) / scale.mm - 750 / 2;
  expect(Math.abs(Number.parseInt(await nose.inputValue()) - touched)).toBeLessThanOrEqual(10);
  const type = async (field: typeof nose, text: string) => {
    await field.fill(text);
    await saved(page, () => field.blur());
  };
  await type(tail, "900");
  await expect(nose, "5200 − 900 − 750").toHaveValue("3550 mm");
  await type(nose, "+60 mm");
  await expect(tail).toHaveValue("840 mm");
  await type(page.locator("#tape-curb"), "300");
  await expect(page.locator("#tape-street"), "2150 − 300 − 700").toHaveValue("1150 mm");
  await nose.fill("tail far");
  await nose.blur();
  await expect(page.locator("#tape-wrong")).toContainText('after "tail" write its distance');
  await type(nose, "3550");
  const hand = page.getByRole("region", { name: "Air conditioner" });
  await hand.locator(".fold > summary").first().click();
  await hand.getByLabel("Again, from the tail").fill("tail 925");
  await saved(page, () => hand.getByLabel("Again, from the tail").blur());
  await expect(page.locator("#findings")).toContainText("it differs by 25 mm");
  await expect(page.locator("#plan .strip.hot")).toBeVisible();
  await saved(page, () => hand.getByLabel("What happens to it").selectOption("removed"));
  await expect(page.locator("#plan .thing-gone").first()).toBeVisible();
  await expect(page.locator("#plan .strip")).toHaveCount(0);
  await saved(page, () => hand.getByLabel("What happens to it").selectOption("stays"));

  // By keyboard it goes to the middle; beside another by name; two on one spot are told.
  await page.getByRole("button", { name: "Vent", exact: true }).focus();
  await saved(page, () => page.keyboard.press("Enter"));
  await type(nose, "before Air conditioner 200");
  await expect(nose, "3550 − 200 − 360").toHaveValue("2990 mm");
  await type(nose, "3600");
  await type(page.locator("#tape-street"), "1200");
  await expect(page.locator("#findings")).toContainText("Air conditioner and Vent");
  await saved(page, () => page.getByRole("region", { name: "Vent", exact: true }).getByRole("button", { name: "Remove" }).click());

  // What is inside is put on the plan by touching it too, once the inside height is known.
  await expect(page.getByRole("button", { name: "Equipment board" })).toHaveCount(0);
  await write(page, "f-rig-inside_height_mm", "1950");
  await page.getByRole("button", { name: "Equipment board" }).click();
  await saved(page, () => page.locator("#plan").click({ position: { x: plan.width * 0.3, y: plan.height * 0.3 } }));
  await expect(page.locator("#f-rig-board-up"), "900 mm above the floor until somebody measures").toHaveValue("900 mm");
  await expect(page.locator("#plan")).toContainText("board");

  // A way for a person that a panel must keep off; the plan says so at once.
  await unfold(page.getByRole("button", { name: "Add a walkway", includeHidden: true }));
  await saved(page, () => page.getByRole("button", { name: "Add a walkway" }).click());
  await accessible(page);
  await stage(page, "Roof").click();
  await saved(page, () => page.locator(".palette li", { hasText: "mid 172 W" }).getByRole("button").click());
  const mark = page.locator("#plan .panel-mark").first();
  await mark.focus();
  for (let i = 0; i < 40; i++) await page.keyboard.press("ArrowDown");
  await expect(page.locator("#to-check")).toContainText("where a person must pass");
  await page.waitForTimeout(400);
  await saved(page, () => page.keyboard.press("z"));

  // Kept for the next job, which starts from it.
  await page.goto(`${job}/survey`);
  await write(page, "f-rig-name", "A rig to keep");
  await unfold(page.getByRole("button", { name: "Keep this rig", includeHidden: true }));
  await page.getByRole("button", { name: "Keep this rig" }).click();
  await expect(page.locator(".rig-kept")).toContainText("Nothing differs");
  await page.goto("/");
  await page.getByLabel("Job", { exact: true }).fill("Such a rig again");
  await page.locator("#units").selectOption("metric");
  await pick(page.locator("#rig"), "A rig to keep");
  await page.getByRole("button", { name: /Start the job/ }).click();
  await page.waitForURL(/\/ask$/);
  await page.goto(page.url().replace(/\/ask$/, "/survey"));
  await expect(page.locator("#f-rig-length_mm")).toHaveValue("5200 mm");
});

test("photos and drawings come in by the browser, and what is none is told", async ({ page }) => {
  const job = await newJob(page, "With a drawing", "metric");
  const dxf = ["0", "SECTION", "2", "ENTITIES", "0", "LWPOLYLINE", "8", "ROOF", "70", "1", "10", "0", "20", "0", "10", "4800", "20", "0", "10", "4800", "20", "2000", "10", "0", "20", "2000", "0", "ENDSEC", "0", "EOF", ""].join("\n");
  await unfold(page.locator("#outline-file"));
  await page.locator("#outline-file").setInputFiles({ name: "roof.dxf", mimeType: "application/dxf", buffer: Buffer.from(dxf) });
  await page.getByRole("button", { name: "Read the file" }).click();
  await page.waitForURL(/\/survey$/);
  await expect(page.locator("#f-rig-length_mm")).toHaveValue("4800 mm");
  await unfold(page.locator("#outline-file"));
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
  await page.getByRole("button", { name: "Add the photo" }).click();
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
