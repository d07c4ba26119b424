// The battery side, as somebody builds it: equipment, circuits, fuses, and what flows.
import { accessible, copied, expect, newJob, pick, saved, stage, test, unfold, write } from "./page";

test("a wire of the battery side is a stop until something protects it, and the map shows it", async ({ page }) => {
  test.setTimeout(120_000);
  await newJob(page, "From the battery to the load", "metric");
  await stage(page, "Power").click();
  const add = async (name: string) => saved(page, () => page.getByRole("button", { name, exact: true }).click());
  for (const name of ["Inverter", "Switch"]) await add(name);
  const choose = async (piece: string, key: string, value: string) => {
    const field = page.locator(".power-thing", { has: page.getByRole("heading", { name: new RegExp(`^${piece} `) }) }).locator(`select[name="${key}"]`);
    await unfold(field);
    await saved(page, () => pick(field, value));
  };
  await choose("Battery", "part", "lithium 12 V 138 Ah");
  await choose("Inverter", "part", "inverter 12 V 820 W");
  await choose("Switch", "part", "battery switch 280 A, 48 V");
  const join = async (from: string, to: string) => {
    await pick(page.locator("#join-from"), from);
    await pick(page.locator("#join-to"), to);
    await page.getByRole("button", { name: "Find terminals" }).click();
    await saved(page, () => page.getByRole("button", { name: `Add ${from} to ${to}` }).click());
  };
  await join("Battery", "Switch");
  await join("Switch", "Inverter");
  await expect(page.locator("#power-map")).toContainText("Inverter");
  const circuit = (name: string) => page.locator("details", { has: page.locator("summary", { hasText: name }) }).last();
  for (const name of ["Battery to Switch", "Switch to Inverter"]) {
    const fold = circuit(name);
    await unfold(fold.locator("select").first());
    await saved(page, () => pick(fold.locator('select[name="cable"]'), "flexible cable 35 mm²"));
    const id = await fold.locator('input[name="measured_mm"]').getAttribute("id");
    await write(page, id!, "0.8 m");
  }
  const checks = page.locator("#findings");
  await expect(checks).toContainText("Battery feeds it at Battery, and nothing on the way opens");
  await expect(page.locator("#power-map .bare").first()).toBeAttached();
  await accessible(page);
  await saved(page, () => pick(circuit("Battery to Switch").locator('select[name="fuse"]'), "bolt-down fuse 90 A, 58 V"));
  await expect(checks).not.toContainText("nothing on the way opens");
  await expect(page.locator("#power-map .bare")).toHaveCount(0);
  await expect(page.getByRole("row", { name: /Switch to Inverter/ })).toContainText(/7\d(\.\d)? A/);
  // Undo takes the fuse away again, and the stop is back.
  await saved(page, () => page.getByRole("button", { name: /^Undo/ }).click());
  await expect(checks).toContainText("nothing on the way opens");
});

test("what is not finished is dotted and listed, sets of loads are named, and AC has cables and breakers", async ({ page }) => {
  test.setTimeout(120_000);
  await copied(page);
  await stage(page, "Power").click();
  const checks = page.locator("#findings");
  await saved(page, () => page.getByRole("button", { name: "Load", exact: true }).click());
  await expect(page.locator("#power-map .box.unfinished")).toBeAttached();
  await expect(checks).toContainText("Load: joined to nothing on the battery side yet");
  await expect(page.locator(".road .badge.open").first()).toBeVisible();
  await accessible(page);
  const materials = page.url().replace(/power.*$/, "materials");

  // Sets: a first proposal, and a load that is taken out of one.
  await saved(page, () => page.getByRole("button", { name: "Propose sets" }).click());
  const kettle = page.getByRole("group", { name: "Loads of With Kettle" });
  await expect(kettle.getByRole("button", { name: /Kettle/ })).toHaveAttribute("aria-pressed", "true");
  await expect(page.getByRole("group", { name: "Loads of What is always on" }).getByRole("button", { name: /Kettle/ })).toHaveAttribute("aria-pressed", "false");
  await saved(page, () => kettle.getByRole("button", { name: /Water pump/ }).click());
  await expect(kettle.getByRole("button", { name: /Water pump/ })).toHaveAttribute("aria-pressed", "false");
  await expect(checks).not.toContainText("kettle alone");

  // AC: without its breaker no residual-current device is behind the inlet, which is existing; without a cable it is not finished.
  const line = page.locator(".power-thing", { has: page.locator("h3", { hasText: "Shore inlet to Shore charger" }) });
  await unfold(line.locator('select[name="breaker"]'));
  await saved(page, () => pick(line.locator('select[name="breaker"]'), "none"));
  await expect(checks).toContainText("no residual-current device between Shore inlet and it");
  await saved(page, () => pick(line.locator('select[name="breaker"]'), "AC breaker 13 A with residual current 30 mA"));
  await expect(checks).not.toContainText("no residual-current device");
  await unfold(line.locator('select[name="cable"]'));
  await saved(page, () => pick(line.locator('select[name="cable"]'), "none yet"));
  await page.goto(materials);
  await expect(page.locator("#still-to-choose")).toContainText("Shore inlet to Shore charger");
  await expect(page.locator("#still-to-choose")).toContainText("Load: joined to nothing");
});
