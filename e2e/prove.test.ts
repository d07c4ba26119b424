import { readFile } from "node:fs/promises";
import { expect, saved, stage, test } from "./page";

test("a job is switched on in order", async ({ page }) => {
  await page.goto("/");
  await page.locator(".job-card", { hasText: "Three panels, one controller" }).last().click();
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "Job file" }).click();
  const text = (await readFile((await (await download).path())!, "utf8")).replaceAll("Otter Quay storage", "Elsewhere"); // other tests find the demo's by its place
  await page.goto("/");
  await page.getByLabel("Job file (JSON)").setInputFiles({ name: "job.json", mimeType: "application/json", buffer: Buffer.from(text) });
  await page.getByRole("checkbox", { name: /as a copy/ }).check();
  await page.getByRole("button", { name: "Bring it in" }).click();
  await page.waitForURL(/\/holes$/);
  await stage(page, "Prove").click();
  const step = (title: string) => page.locator(".prove-list li", { has: page.locator("summary", { hasText: new RegExp(`^\\d+ ${title}`) }) });
  const open = async (title: string) => {
    if (!(await step(title).locator("details").evaluate((d) => (d as HTMLDetailsElement).open))) await step(title).locator("summary").click();
  };

  // Nothing is closed before polarity is known.
  await open("Battery side on");
  await expect(step("Battery side on")).toContainText("Locked: first Everything off, Volts of Battery");
  await expect(step("Battery side on").getByRole("button", { name: "Done" })).toHaveCount(0);
  await saved(page, () => step("Everything off").getByRole("button", { name: "Done" }).click());
  await expect(step("Everything off")).toContainText("done");
  await open("Volts of Battery");
  const volts = step("Volts of Battery").getByLabel("Volts", { exact: true });
  const save = () => step("Volts of Battery").getByRole("button", { name: "Save" }).click();
  for (const [typed, says] of [
    ["13,2", "is no number"],
    ["13.2 A", "is in amps, and volts are asked for"],
    ["", "write what the meter shows"],
  ] as const) {
    await volts.fill(typed);
    expect((await saved(page, save)).status()).toBe(422);
    await expect(step("Volts of Battery").locator(".wrong:visible")).toContainText(says);
  }
  await volts.fill("-13.2");
  await saved(page, save);
  await expect(step("Volts of Battery")).toContainText("plus and minus are swapped");
  await expect(step("Battery side on")).toContainText("locked");
  await open("Volts of Battery");
  await volts.fill("13.2 V");
  await saved(page, save);
  await expect(step("Volts of Battery").locator("summary")).toContainText("done");
  await open("Battery side on");
  await saved(page, () => step("Battery side on").getByRole("button", { name: "Done" }).click());

  // A lead goes on past a lock with a reason; it is kept.
  await open("Ctrl 1: panels on");
  await step("Ctrl 1: panels on").getByLabel("Why go on all the same").fill("a bench supply stands in for the sun");
  await saved(page, () => step("Ctrl 1: panels on").getByRole("button", { name: "Go on all the same" }).click());
  await open("Ctrl 1: panels on");
  await expect(step("Ctrl 1: panels on")).toContainText("Went on past the lock: a bench supply");
  await open("Ctrl 1: values set");
  await step("Ctrl 1: values set").getByLabel("Charging volts set").fill("28.8");
  await saved(page, () => step("Ctrl 1: values set").getByRole("button", { name: "Save" }).click());
  await expect(step("Ctrl 1: values set")).toContainText("put right first");
  await expect(page.locator("#findings")).toContainText("28.8 V; expected 14.1 to 14.7 V. Set what the battery's manual says.");
});
