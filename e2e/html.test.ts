// Every page is HTML as the standard has it, by html-validate.
import { HtmlValidate, StaticConfigLoader } from "html-validate";

import { expect, test } from "./page.js";

const beside = ["layouts", "wirings", "curves", "volts", "markout", "materials", "history", "print", "customer", "rig", "practice"];

test("every page is valid HTML", async ({ page }) => {
  const html = new HtmlValidate(new StaticConfigLoader({ extends: ["html-validate:standard"] }));
  await page.goto("/");
  const [finished, half] = await Promise.all(["61", "64"].map((number) => page.locator(".job-card", { has: page.locator(`.job-number:text-is("${number}")`) }).getAttribute("href")));
  await page.goto(half!);
  const stages = await page.getByRole("navigation", { name: "The job's road" }).getByRole("link").evaluateAll((links) => links.map((a) => new URL((a as HTMLAnchorElement).href).pathname.split("/").pop()!));
  expect(stages.length).toBe(11);
  const paths = ["/", "/shelf", "/rules", "/people", "/people/audit", "/pocket", "/days", "/day", "/stock", "/stock/orders", "/stock/count", "/load", "/register", "/sign-in"];
  for (const job of [finished, half]) for (const at of [...stages, ...beside]) paths.push(`${job}/${at}`);
  const wrong: string[] = [];
  let read = 0;
  for (const path of paths) {
    const answer = await page.request.get(path);
    if (answer.status() === 404) continue; // a page that this job does not have
    expect(answer.status(), path).toBe(200);
    read++;
    for (const result of (await html.validateString(await answer.text())).results) for (const m of result.messages) wrong.push(`${path}, line ${m.line}: ${m.message} (${m.ruleId})`);
  }
  expect(wrong).toEqual([]);
  expect(read).toBeGreaterThan(45);
});
