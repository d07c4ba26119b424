// What the browser tests share: a page that fails on console errors and on
// anything asked of another host, and the accessibility check.
import { readFile } from "node:fs/promises";

import { AxeBuilder } from "@axe-core/playwright";
import { test as base, expect, type BrowserContext, type Locator, type Page } from "@playwright/test";

export const test = base.extend<{ page: Page; takesAlong: boolean }>({
  // Whether the browser may take jobs along: that loads and compiles the whole program in every
  // browser, seconds of work that only the tests of the worker need.
  takesAlong: [false, { option: true }],
  page: async ({ page, baseURL, takesAlong }, use) => {
    if (!takesAlong) await page.context().addInitScript(() => Object.assign(ServiceWorkerContainer.prototype, { register: () => Promise.reject(new Error("no worker in this test")) }));
    const wrong: string[] = [];
    page.on("console", (m) => {
      // The browser itself logs a refused edit's 4xx, and a request that a test cut off.
      if (m.type() === "error" && !/status of (401|403|404|409|410|422|503)|net::ERR_(FAILED|INTERNET_DISCONNECTED|ABORTED)/.test(m.text())) wrong.push(m.text());
    });
    page.on("pageerror", (e) => wrong.push(e.message));
    page.on("request", (r) => {
      if (!r.url().startsWith(baseURL!) && !r.url().startsWith("data:") && !r.url().startsWith("blob:")) wrong.push(`asked another host: ${r.url()}`);
    });
    await signIn(page.context(), baseURL!);
    await use(page);
    expect(wrong).toEqual([]);
  },
});

export { expect };

/** Signs in as one of the demo's people, by the order in which they are offered; 1 is its lead. */
export async function signIn(context: BrowserContext, base: string, person = 1) {
  const answer = await context.request.post(`${base}/sign-in/demo`, { form: { person } });
  expect(answer.ok()).toBeTruthy();
}

/** Fails on anything axe finds under WCAG 2.2 AA, or by some of its rules alone; outside what is like something it has seen. */
export async function accessible(page: Page, rules?: string[], alike?: string) {
  let axe = new AxeBuilder({ page }).setLegacyMode(); // no page has frames: the whole of it at once takes half as long
  if (alike && (await page.locator(alike).count()) > 0) axe = axe.exclude(alike);
  const only = rules ? { type: "rule" as const, values: rules } : { type: "tag" as const, values: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"] };
  const found = await axe.options({ runOnly: only, resultTypes: ["violations"] }).analyze();
  expect(found.violations.map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(" ")).join("; ")}`)).toEqual([]);
}

/** A copy of the demo's job under way, which other tests do not touch. */
export async function copied(page: Page) {
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
}

/** Starts a job from the board, opens its survey and gives its address. */
export async function newJob(page: Page, title: string, units = "imperial") {
  await page.goto("/");
  await page.getByLabel("Job", { exact: true }).fill(title);
  await page.getByLabel("Customer").fill("Test customer");
  await page.locator("#units").selectOption(units);
  await page.getByRole("button", { name: /Start the job/ }).click();
  await page.waitForURL(/\/ask$/);
  const job = page.url().replace(/\/ask$/, "");
  await page.goto(`${job}/survey`);
  return job;
}

/** Opens every fold that something is in. */
export async function unfold(thing: Locator) {
  await thing.first().evaluate((el) => {
    for (let fold = el.closest("details"); fold; fold = fold.parentElement?.closest("details") ?? null) fold.open = true;
  });
}

/** Writes a field as a person does, and waits until the program has it. */
export async function write(page: Page, id: string, text: string) {
  const field = page.locator(`#${id}`);
  await unfold(field);
  await field.fill(text);
  await saved(page, () => field.blur());
}

/** Does something and waits for the edit it makes to be answered. */
export async function saved(page: Page, act: () => Promise<unknown>) {
  const answered = page.waitForResponse((r) => /\/api\/jobs\/[^/]+\/(edit|fields|undo|redo)$/.test(r.url()) && !(r.request().postData() ?? "").includes('"try":true'));
  await act();
  const response = await answered;
  await response.finished();
  await page.waitForTimeout(30); // the answered page takes the old one's place
  return response;
}

export const stage = (page: Page, name: string) => page.getByRole("navigation", { name: "The job's road" }).getByRole("link", { name: new RegExp(`^(\\d+ (not )?\\w+ ?)?${name}`) });

/** Chooses an option by its text: a field whose choices the page shares has them once somebody turns to it. */
export async function pick(field: Locator, label: string) {
  await field.focus();
  await field.selectOption({ label });
}
