// What is typed is never lost: without a connection, over a closed page, beside others.
import type { Browser, BrowserContext, Page } from "@playwright/test";

import { accessible, expect, newJob, signIn, test, unfold } from "./page";

/** A phone of one of the demo's people. */
async function phone(browser: Browser, base: string, person: number) {
  const context = await browser.newContext({ viewport: { width: 390, height: 844 } });
  await signIn(context, base, person);
  return { context, page: await context.newPage() };
}

/** Takes the page's job along. */
async function takeAlong(page: Page) {
  await page.getByRole("button", { name: "Take along" }).click();
  await expect(page.getByRole("button", { name: "Taken along" })).toBeVisible({ timeout: 30_000 });
}

/** Types into a field that is saved by itself. */
async function type(page: Page, id: string, text: string) {
  const field = page.locator(`#${id}`);
  await unfold(field);
  await field.fill(text);
  await field.blur();
}

const waits = (page: Page, n: number) => expect(page.locator("#waiting")).toHaveText(`${n} waiting`);
/** The device keeps nothing any more that the server does not have. */
const sent = async (page: Page) => {
  const left = () =>
    page.evaluate(() =>
      new Promise<number>((done, failed) => {
        setTimeout(() => done(-1), 3000); // a browser that is restarting its worker may answer none of this; it is asked again
        const open = indexedDB.open("velvet-road");
        open.onerror = () => failed(open.error);
        open.onsuccess = () => {
          const count = open.result.transaction("entries").objectStore("entries").count();
          count.onsuccess = () => (open.result.close(), done(count.result));
        };
      }),
    );
  await expect.poll(left, { timeout: 20_000 }).toBe(0);
  await expect(page.locator("#waiting")).toBeHidden();
};
const file = async (context: BrowserContext, job: string) => (await (await context.request.get(`${job}/export`)).json()) as { customer: string; contact: string; place: string; title: string; rig: { length_mm: number }; record: { built: { id: string; serial?: string; outcome: string }[] }; photos?: { caption: string }[]; panels: { id: string }[] };
const history = async (page: Page, job: string) => {
  await page.goto(`${job}/history`);
  return (await page.locator("main").innerText()).split("\n");
};

test.use({ takesAlong: true });

test("a job taken along opens without a connection, and what is done there waits and goes once, in order", async ({ page, context }) => {
  test.setTimeout(120_000);
  const job = await newJob(page, "Away on the roof", "metric");
  await takeAlong(page);
  await context.setOffline(true);
  for (const stage of ["survey", "roof", "strings", "controllers", "holes", "cables", "record", "markout", "history", "print"]) {
    await page.goto(`${job}/${stage}`);
    await expect(page.getByRole("heading", { level: 1 }).first()).toBeVisible();
  }
  await page.goto(`${job}/layouts`);
  await page.goto(`${job}/survey`);
  await expect(page.locator(".away")).toContainText("No connection");
  await accessible(page);
  await type(page, "f-rig-length_mm", "6 m");
  await expect(page.locator("#tape-length_mm, #f-rig-length_mm").first()).toHaveValue("6000 mm");
  await type(page, "f-rig-width_mm", "2.3 m");
  await expect(page.locator("#plan")).toBeVisible(); // the change itself, at once
  await waits(page, 2);
  await type(page, "f-rig-length_mm", "six metres or so");
  await expect(page.locator("#f-rig-length_mm-wrong")).toContainText("is not part of a length");
  await waits(page, 2); // what cannot be is said at its field, here as there
  await type(page, "f-rig-length_mm", "6.1 m");
  await type(page, "f-job-contact", "by the ford");
  await waits(page, 4);
  await page.getByRole("button", { name: /^Undo/ }).click();
  await waits(page, 3);
  await expect(page.locator("#f-job-contact")).toHaveValue("");
  await type(page, "f-job-contact", "at the mill");
  await waits(page, 4);

  // The layout search says that it needs the server.
  await page.goto(`${job}/layouts`);
  await page.getByLabel(/^slim 118 W/).fill("2");
  await page.getByRole("button", { name: "Work out layouts" }).click();
  await expect(page.getByText("The layout search needs the server")).toBeVisible();
  await page.goto(`${job}/survey`);

  // A photo waits like everything else, and is seen meanwhile.
  await unfold(page.locator("#photo-file"));
  await page.locator("#photo-file").setInputFiles({ name: "roof.png", mimeType: "image/png", buffer: Buffer.from("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg==", "base64") });
  await page.locator("#photo-caption").fill("the ridge");
  await page.getByRole("button", { name: "Add the photo" }).click();
  await waits(page, 5);
  await expect.poll(() => page.locator("#photos img").evaluate((img) => (img as HTMLImageElement).naturalWidth)).toBe(1);

  // The page is closed, the phone goes on: a new page has it all.
  await page.goto("about:blank");
  await page.goto("/");
  await expect(page.getByText("Away on the roof")).toBeVisible();
  await waits(page, 5);
  await page.locator("#waiting").click();
  await expect(page.getByRole("dialog")).toContainText("Roof length: 6.1 m");
  await accessible(page);
  await page.getByRole("button", { name: "Close" }).click();
  await page.goto(`${job}/survey`);
  await expect(page.locator("#f-job-contact")).toHaveValue("at the mill");

  await context.setOffline(false);
  await page.goto(`${job}/survey`);
  await sent(page);
  const d = await file(context, job);
  expect([d.rig.length_mm, d.contact, d.photos?.map((p) => p.caption)]).toEqual([6100, "at the mill", ["the ridge"]]);
  const done = (await history(page, job)).filter((line) => /roof length|roof width|phone/i.test(line));
  expect(done.map((l) => l.toLowerCase().replace(/^.*: /, ""))).toEqual(["phone, email", "roof length", "roof width", "roof length"]);
});

test("two people on one field: the later one sees both and chooses, and sees the other's work at once", async ({ page, browser, baseURL }) => {
  test.setTimeout(120_000);
  const job = await newJob(page, "Two on one field");
  const other = await phone(browser, baseURL!, 3);
  await other.page.goto(`${job}/survey`);
  await expect(page.locator("#here")).toContainText("Tobin Ashgrove: Survey", { timeout: 5000 });
  await takeAlong(other.page);
  await other.context.setOffline(true);
  await type(other.page, "f-job-place", "the north bay");
  await type(other.page, "f-job-contact", "call at noon");
  await waits(other.page, 2);
  await type(page, "f-job-place", "bay 2");
  await expect(page.locator("#f-job-place")).toHaveValue("bay 2");
  await expect(other.page.locator(".away")).toBeVisible({ timeout: 20_000 }); // the program on the device has to start
  await other.context.setOffline(false);
  await expect(other.page.locator("#waiting")).toHaveText("1 to decide", { timeout: 20_000 });
  await expect(other.page.locator(".away")).toBeHidden(); // the server's page is back
  await expect(page.locator("#f-job-contact")).toHaveValue("call at noon"); // it came by itself
  await other.page.locator("#waiting").click();
  const list = other.page.getByRole("dialog");
  for (const text of ["Wren Castellane changed the same", "bay 2", "the north bay"]) await expect(list).toContainText(text);
  await accessible(other.page);
  await list.getByRole("button", { name: "Use mine" }).click();
  await expect(list.getByText("Nothing waits")).toBeVisible();
  await expect(page.locator("#f-job-place")).toHaveValue("the north bay");

  // Undo takes back one's own, and is refused when the other built on it.
  await page.getByRole("button", { name: /^Undo/ }).click();
  await expect(page.getByRole("alert").filter({ hasText: "Tobin Ashgrove built on it" })).toBeVisible();
  await other.context.close();
});

test("text that is not saved, or cannot be, is there again after the page was closed", async ({ page, context }) => {
  const job = await newJob(page, "Half typed");
  await unfold(page.locator("#f-rig-width_mm"));
  await page.locator("#f-rig-length_mm").fill("twenty");
  await page.locator("#f-rig-length_mm").blur();
  await expect(page.locator("#f-rig-length_mm-wrong")).toContainText("twenty");
  await type(page, "f-rig-width_mm", "7' 6\"");
  await expect(page.locator("#f-rig-length_mm")).toHaveValue("twenty"); // a third field that is saved leaves it
  await unfold(page.locator("#f-job-customer"));
  await page.locator("#f-job-customer").fill("");
  await page.locator("#f-job-customer").pressSequentially("Half a na");
  await page.waitForTimeout(150);
  await page.reload();
  await expect(page.locator("#f-rig-length_mm")).toHaveValue("twenty");
  await expect(page.locator("#f-rig-length_mm-wrong")).toContainText("twenty");
  await expect(page.locator("#f-job-customer")).toHaveValue("Half a na");
  await expect(page.locator("#f-job-customer-wrong")).toHaveText("Typed, not saved yet.");
  await type(page, "f-rig-length_mm", "20'");
  await expect.poll(async () => (await file(context, job)).rig.length_mm).toBe(6096);
  await page.reload();
  await expect(page.locator("#f-rig-length_mm")).toHaveValue("20'");
});

test("what waits for a job that was signed meanwhile stays, and goes nowhere in another's name", async ({ page, browser, baseURL }) => {
  test.setTimeout(120_000);
  // The finished job again, as a copy of its file, opened to be changed.
  await page.goto("/");
  const finished = await page.locator(".job-card", { has: page.locator('.job-number:text-is("61")') }).getAttribute("href");
  const text = await (await page.request.get(`${finished}/export`)).body();
  const brought = await page.request.post("/jobs/import", { multipart: { copy: "yes", file: { name: "job.json", mimeType: "application/json", buffer: text } } });
  const job = brought.url().replace(/\/\w+$/, "");
  const lead = async (changes: object[], reason: string) => {
    const api = job.replace("/jobs/", "/api/jobs/");
    const { revision } = await (await page.request.post(`${api}/show`, { data: { stage: "record", parts: ["findings"] } })).json();
    const answer = await page.request.post(`${api}/edit`, { data: { stage: "record", id: crypto.randomUUID(), base: revision, says: "lead", reason, changes } });
    expect(answer.status()).toBe(200);
  };
  await lead([{ do: "reopen" }], "one more look");
  const other = await phone(browser, baseURL!, 3);
  await other.page.goto(`${job}/survey`);
  await takeAlong(other.page);
  await other.context.setOffline(true);
  await type(other.page, "f-job-place", "after the fact");
  await waits(other.page, 1);
  await lead([{ do: "sign_off" }], "looked");
  await other.context.setOffline(false);
  await expect(other.page.locator("#waiting")).toHaveText("1 to decide", { timeout: 20_000 });
  await other.page.locator("#waiting").click();
  await expect(other.page.getByRole("dialog")).toContainText("The job is signed off; reopen it with a reason to change it");

  // Somebody else signs in on the phone: it stays the first one's.
  await signIn(other.context, baseURL!, 4);
  await other.page.goto(`${job}/survey`);
  await other.page.locator("#waiting").click();
  await expect(other.page.getByRole("dialog")).toContainText("Somebody else made it on this device");
  await expect(other.page.getByRole("dialog").getByRole("button", { name: "Send again" })).toBeHidden();
  await other.context.close();
});

test("what waits for a job that was erased meanwhile stays, with the reason, and leaves as a file", async ({ page, browser, baseURL }) => {
  test.setTimeout(120_000);
  const job = await newJob(page, "Erased meanwhile");
  const number = (await page.locator(".bar-job b").textContent())!.replace(/\D/g, "");
  const other = await phone(browser, baseURL!, 3);
  await other.page.goto(`${job}/survey`);
  await takeAlong(other.page);
  await other.context.setOffline(true);
  await type(other.page, "f-job-place", "nowhere");
  await waits(other.page, 1);
  const gone = await page.context().request.post(`${job}/erase`, { form: { what: "job", number } });
  expect(gone.ok()).toBeTruthy();
  await other.context.setOffline(false);
  await expect(other.page.locator("#waiting")).toHaveText("1 to decide", { timeout: 20_000 });
  await other.page.locator("#waiting").click();
  await expect(other.page.getByRole("dialog")).toContainText(`Job ${number} was erased by Wren Castellane`);
  const saved = other.page.waitForEvent("download");
  await other.page.getByRole("button", { name: "Save as a file" }).click();
  const text = JSON.parse(await (await (await saved).createReadStream()).toArray().then((parts) => Buffer.concat(parts).toString())) as { body: { fields: { place: string } } }[];
  expect(text[0].body.fields.place).toBe("nowhere");
  await other.page.getByRole("button", { name: "Let it go" }).click();
  await sent(other.page);
  await other.context.close();
});

test("a device that can keep nothing says so and sends all the same; a phone's clock decides nothing", async ({ browser, baseURL }) => {
  const { context, page } = await phone(browser, baseURL!, 1);
  await context.addInitScript(() => {
    IDBObjectStore.prototype.add = () => {
      throw new DOMException("no room", "QuotaExceededError");
    };
    const now = Date.now;
    Date.now = () => now() + 86_400_000;
  });
  const job = await newJob(page, "No room on it");
  await type(page, "f-job-place", "the quay");
  await expect(page.getByRole("alert").filter({ hasText: "no room left" })).toBeVisible();
  await expect.poll(async () => (await file(context, job)).place).toBe("the quay");

  // Without a connection either, the page keeps it: it is listed, leaves as a file, and is sent.
  await context.setOffline(true);
  await type(page, "f-job-contact", "by the ferry");
  await waits(page, 1);
  await expect(page.locator("#f-job-contact")).toHaveValue("by the ferry");
  await page.locator("#waiting").click();
  const saved = page.waitForEvent("download");
  await page.getByRole("button", { name: "Save all as a file" }).click();
  expect(await (await (await saved).createReadStream()).toArray().then((parts) => Buffer.concat(parts).toString())).toContain("by the ferry");
  await page.getByRole("button", { name: "Close" }).click();
  await context.setOffline(false);
  await sent(page);
  await expect.poll(async () => (await file(context, job)).contact).toBe("by the ferry");
  await context.close();
});

test("two tabs of one device share what waits, and a new program finds it", async ({ page, context }) => {
  test.setTimeout(90_000);
  const job = await newJob(page, "Two tabs");
  await takeAlong(page);
  const tab = await context.newPage();
  await tab.goto(`${job}/survey`);
  await context.setOffline(true);
  await type(page, "f-job-place", "one");
  await type(tab, "f-job-contact", "two");
  await waits(page, 2);
  await waits(tab, 2);
  await tab.close();
  await context.setOffline(false);
  // Everything of the program on this device goes, as with an update that went wrong; what waits does not.
  await page.evaluate(async () => {
    for (const r of await navigator.serviceWorker.getRegistrations()) await r.unregister();
    for (const k of await caches.keys()) await caches.delete(k);
  });
  await page.goto(`${job}/survey`);
  await sent(page);
  const d = await file(context, job);
  expect([d.place, d.contact]).toEqual(["one", "two"]);

  // Who signs out leaves nothing of the jobs on the device.
  await page.goto("/");
  await page.locator(".who summary").click();
  await page.getByRole("button", { name: "Sign out" }).click();
  await expect(page.getByRole("heading", { name: "Lantern Ridge Solar" })).toBeVisible();
  await context.setOffline(true);
  await page.goto(`${job}/survey`);
  await expect(page.getByText("Two tabs")).toBeHidden();
});

test("an edit is kept in the moment it is made: the page may be closed in the next", async ({ page, context }) => {
  test.setTimeout(120_000);
  const job = await newJob(page, "Closed at once");
  await takeAlong(page);
  await context.setOffline(true);
  // A field is left, or a button pressed, and in the same task the page goes elsewhere.
  const times = 4;
  for (let i = 1; i <= times; i++) {
    await page.goto(`${job}/survey`);
    await unfold(page.locator("#f-job-place"));
    await page.locator("#f-job-place").fill(`bay ${i}`);
    await page.evaluate((on) => {
      (document.activeElement as HTMLElement).blur();
      if (on) location.href = "/";
      else location.reload();
    }, i % 2);
    await page.waitForURL(i % 2 ? "/" : `${job}/survey`);
    await waits(page, i);
  }
  await page.goto(`${job}/survey`);
  await expect(page.locator("#f-job-place")).toHaveValue(`bay ${times}`);
  await expect(page.locator("#f-job-place-wrong")).toBeHidden(); // it is saved, not half typed
  const tab = await context.newPage();
  await tab.goto(`${job}/survey`);
  await unfold(tab.locator("#f-job-contact"));
  await tab.locator("#f-job-contact").fill("at the weir");
  await tab.evaluate(() => (document.activeElement as HTMLElement).blur());
  await tab.close();
  await waits(page, times + 1);
  await context.setOffline(false);
  await page.goto(`${job}/survey`);
  await sent(page);
  const d = await file(context, job);
  expect([d.place, d.contact]).toEqual([`bay ${times}`, "at the weir"]);
});

test("a tab shows what waits from another before it changes the same", async ({ page, context }) => {
  test.setTimeout(90_000);
  const job = await newJob(page, "Two tabs on one field");
  await takeAlong(page);
  const tab = await context.newPage();
  await tab.goto(`${job}/survey`);
  await unfold(tab.locator("#f-job-place"));
  await context.setOffline(true);
  await type(page, "f-job-place", "the first tab's");
  await expect(tab.locator("#f-job-place")).toHaveValue("the first tab's");
  await type(tab, "f-job-place", "the second tab's");
  await expect(page.locator("#f-job-place")).toHaveValue("the second tab's");
  await waits(page, 2);
  // A tab that could not see it: the later one is not made over the earlier without a question.
  await tab.evaluate(() => (document.getElementById("page")!.dataset.knows = ""));
  await type(tab, "f-job-place", "made blind");
  await context.setOffline(false);
  await page.goto(`${job}/survey`);
  await expect(page.locator("#waiting")).toHaveText("1 to decide", { timeout: 20_000 });
  expect((await file(context, job)).place).toBe("the second tab's");
});

test("the small sums are there without a connection once they were opened", async ({ page, context }) => {
  test.setTimeout(90_000);
  const programIsHere = () => page.evaluate(async () => Boolean(await caches.match(new URL((await (await fetch("/sw.js")).text()).match(/"offline\.wasm":\s*"([^"]+)"/)![1], location.href))));
  await page.goto("/pocket");
  await accessible(page);
  await expect.poll(programIsHere, { timeout: 40_000 }).toBe(true);
  await context.setOffline(true);
  await page.goto("/pocket");
  await page.getByText("Recharge time").click();
  await page.getByLabel("Missing").fill("460");
  await page.getByLabel("Charged with").fill("18");
  await page.locator("#recharge").getByRole("button", { name: "Work it out" }).click();
  await expect(page.locator("#recharge")).toContainText("25.6 h");
  await expect(page.locator(".away")).toBeVisible();
  await page.getByLabel("Charged with").fill("none");
  await page.locator("#recharge").getByRole("button", { name: "Work it out" }).click();
  await expect(page.locator("#recharge .wrong:not([hidden])")).toContainText("is no number");
  await accessible(page);
});
