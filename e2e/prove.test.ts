import { accessible, copied, expect, pick, saved, stage, test } from "./page";

test("a job is switched on in order", async ({ page }) => {
  await copied(page);
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
  // What no meter shows is looked over: not right says what, and it is open until somebody looks again.
  await open("Batteries held down");
  await expect(step("Batteries held down")).toContainText("None moves more than 25 mm");
  await step("Batteries held down").getByLabel("What is not right").fill("the left strap is loose");
  await saved(page, () => step("Batteries held down").getByRole("button", { name: "Not right" }).click());
  await open("Batteries held down");
  await expect(step("Batteries held down").locator("summary")).toContainText("put right first");
  await expect(step("Batteries held down")).toContainText("the left strap is loose. Put it right, then look again.");
  await saved(page, () => step("Batteries held down").getByRole("button", { name: "Look again" }).click());
  await open("Batteries held down");
  await saved(page, () => step("Batteries held down").getByRole("button", { name: "As it should be" }).click());
  await expect(step("Batteries held down").locator("summary")).toContainText("done");
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
  // What it switches on is built first; what is whole is recorded by one touch.
  await open("Battery side on");
  await expect(step("Battery side on")).toContainText("Not recorded as built: Battery to switch, Switch to plus bus, Battery to shunt and Shunt to minus bus");
  await saved(page, () => step("Battery side on").getByRole("button", { name: "They are built as planned" }).click());
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

test("a hidden fault is practised, and simulated meters and an export are taken over", async ({ page }) => {
  await copied(page);
  const job = page.url().replace(/\/holes$/, "");
  await page.goto(`${job}/practice?seed=5`);
  const spots = page.getByRole("button", { name: /^Meter / });
  const all = await spots.count();
  await page.getByRole("button", { name: "Meter String A, open" }).click();
  await expect(spots).toHaveCount(all - 1);
  for (const name of ["Battery's terminals", "Controller's battery terminals", "Clamp on"]) await page.getByRole("button", { name: new RegExp(name) }).first().click();
  await expect(page.getByText("4 readings taken")).toBeVisible();
  await pick(page.getByLabel("Fault"), "Loose joint between controller and battery");
  await page.getByRole("button", { name: "Name it" }).click();
  await expect(page.locator("#answer")).toContainText("Right");
  await expect(page.locator("#answer ol li").first()).toBeVisible();
  await accessible(page);

  // A fault put in is metered, recorded as simulated, and named by what the readings say.
  await page.goto(`${job}/prove`);
  await page.locator("#meters > summary").click();
  await pick(page.getByLabel(/with this fault put in/), "String A: a panel missing");
  await page.getByRole("button", { name: "Read the meters" }).click();
  await page.getByRole("button", { name: "Record them as simulated" }).click();
  await expect(page.locator("#findings")).toContainText("simulated, not metered");
  await page.getByRole("link", { name: /Explain the readings/ }).click();
  await expect(page.locator(".why-list li").first()).toContainText("a panel is missing");
  await page.getByRole("button", { name: /^Undo/ }).click();
  await expect(page.locator("#findings")).not.toContainText("simulated, not metered");

  // An export: what is wrong with it is told, then its strongest moment is taken over.
  await page.locator("#log > summary").click();
  const text = page.getByLabel("Or its rows, pasted with the headings");
  await text.fill("time,PV voltage (V),PV current (A)\n03/04/2026 12:00,60,9\n");
  await page.getByRole("button", { name: "Read it" }).click();
  await expect(page.locator("#log [role=alert]")).toContainText("may be two days");
  await text.fill("time,PV voltage (V),PV current (A),battery voltage (V),charge current (A)\n2026-09-03 12:00,58.1,8.1,13.4,33.9\n2026-09-03 12:05,58.0,8.4,13.4,35.2\n");
  await page.getByRole("button", { name: "Read it" }).click();
  await expect(page.locator("#log")).toContainText("12:05");
  await expect(page.locator("#log")).toContainText("PV amps: 8.4 A, expected");
  await saved(page, () => page.getByRole("button", { name: "Record them", exact: true }).click());
  const kept = (await (await page.request.get(`${job}/export`)).json()) as { record: { measured: { what: string; from?: string; at: string }[] } };
  expect(kept.record.measured.filter((m) => m.from === "file").map((m) => [m.what, m.at.slice(0, 10)])).toEqual(["array_v", "array_a", "charge_a", "supply_v"].map((w) => [w, "2026-09-03"]));
  await page.getByRole("button", { name: /^Undo/ }).click();
});
