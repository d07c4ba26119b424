// Signing in, inviting, blocking, and the customer's link.
import { accessible, expect, newJob, test } from "./page";

test("a lead invites somebody, who joins by the link, works, and is blocked", async ({ page, browser, baseURL }) => {
  await page.goto("/people");
  await accessible(page);
  await page.getByLabel("Name", { exact: true }).fill("Nina Harrow");
  await page.getByRole("combobox", { name: "Role", exact: true }).selectOption("office");
  await page.getByRole("button", { name: "Make a link" }).click();
  const link = await page.getByRole("textbox", { name: "Link" }).inputValue();
  await accessible(page);

  const away = await browser.newContext({ viewport: { width: 390, height: 844 } });
  const other = await away.newPage();
  await other.goto(baseURL! + "/");
  await expect(other.getByRole("heading", { name: "Lantern Ridge Solar" })).toBeVisible(); // who is not signed in sees the door
  await accessible(other);
  await other.goto(link);
  await accessible(other);
  await other.getByLabel("Name to sign in with").fill("nina");
  await other.getByLabel("Password").fill("three words in a row");
  await other.getByRole("button", { name: /^Join/ }).click();
  await expect(other.getByRole("heading", { name: "Jobs" })).toBeVisible();
  await other.goto(baseURL! + "/people");
  await expect(other.getByText("A lead invites and blocks people, and reads")).toBeVisible();
  await other.goto(link);
  await expect(other.getByRole("alert")).toContainText("does not work any more");

  // By name and password, from another page of hers; a wrong one says so and keeps the name.
  await other.goto(baseURL! + "/");
  await other.locator(".who summary").click();
  await other.getByRole("button", { name: "Sign out" }).click();
  await other.getByLabel("Your name to sign in").fill("Nina");
  await other.getByLabel("Password").fill("not these words");
  await other.getByRole("button", { name: /^Sign in/ }).click();
  await expect(other.getByRole("alert")).toContainText("do not belong together");
  await expect(other.getByLabel("Your name to sign in")).toHaveValue("Nina");
  await other.getByLabel("Password").fill("three words in a row");
  await other.getByRole("button", { name: /^Sign in/ }).click();
  await expect(other.getByRole("heading", { name: "Jobs" })).toBeVisible();

  // What came of it stands in the audit list, for the lead.
  await page.goto("/people/audit");
  const rows = page.locator("table tbody tr", { hasText: "Nina Harrow" });
  await expect(rows.filter({ hasText: "wrong name or password" })).toHaveCount(1);
  await expect(rows.filter({ hasText: "join by a link" })).toHaveCount(1);
  await expect(rows.filter({ hasText: "invite somebody" })).toContainText("done");
  await accessible(page);
  await page.goto("/people");
  await page.getByRole("button", { name: "Block Nina Harrow" }).click();
  await expect(page.getByRole("button", { name: "Let Nina Harrow in again" })).toBeVisible();
  await other.reload();
  await expect(other.getByRole("heading", { name: "Lantern Ridge Solar" })).toBeVisible();
  await away.close();
});

test("a customer reads their page by a link until it is withdrawn", async ({ page, browser }) => {
  const job = await newJob(page, "Papers to read");
  await page.goto(`${job}/customer`);
  await accessible(page);
  await page.getByRole("button", { name: "Make a link for the customer" }).click();
  const link = await page.getByLabel("Link for the customer").inputValue();
  const away = await browser.newContext();
  const customer = await away.newPage();
  await customer.goto(link);
  await expect(customer.getByRole("heading", { name: "Test customer" })).toBeVisible();
  await expect(customer.getByRole("link"), "the same as a PDF, and no way further in").toHaveCount(1);
  await expect(customer.getByRole("link", { name: "As a PDF" })).toHaveAttribute("href", /^\/papers\/[\w-]{32}\/customer\.pdf$/);
  await accessible(customer);
  await page.getByRole("button", { name: "Withdraw the link" }).click();
  await customer.reload();
  await expect(customer.getByRole("alert")).toContainText("does not work any more");
  await away.close();
});

test("what one person does is not sent in the name of another who signs in in another tab", async ({ page, context, baseURL }) => {
  const job = await newJob(page, "Two at one phone");
  const invite = await context.newPage();
  await invite.goto("/people");
  await invite.getByLabel("Name", { exact: true }).fill("Somebody");
  await page.goto(`${job}/survey`);
  // In another tab somebody else signs in; this page is still the lead's.
  expect((await context.request.post(`${baseURL}/sign-in/demo`, { form: { person: 2 } })).ok()).toBeTruthy();
  const length = page.getByLabel("Roof length", { exact: true });
  await length.fill("6 m");
  await length.press("Enter");
  await expect(page.locator("#toast")).toContainText("is signed in now. Nothing was done in their name");
  await expect(page.locator("#waiting")).toContainText("1 waiting");
  // A form of a page that was opened before is refused as well.
  await invite.getByRole("button", { name: "Make a link" }).click();
  await expect(invite.getByRole("heading", { name: "Another person's page" })).toBeVisible();
  await accessible(invite);
  await page.reload();
  await expect(page.getByLabel("Roof length", { exact: true })).toHaveValue("");
  await page.locator("#waiting").click();
  await expect(page.locator("#waiting-list")).toContainText("Somebody else made it on this device; it waits until they sign in.");
  // When its maker signs in again it is sent.
  expect((await context.request.post(`${baseURL}/sign-in/demo`, { form: { person: 1 } })).ok()).toBeTruthy();
  await page.reload();
  await expect(page.locator("#waiting")).toBeHidden({ timeout: 20_000 });
  await page.reload();
  await expect(page.getByLabel("Roof length", { exact: true })).not.toHaveValue("");
});
