// Counts the clicks and the typed fields of five whole jobs in a running program that
// holds the demo:
//   BASE_URL=http://127.0.0.1:8080 npm run clicks
// A click is a press of the pointer; a choice from a list is two. A field is typed in
// without a click where the page has put the cursor there, or Tab from the last field
// leads there; else with one. Each job is one of its own and is left in the program.
import { chromium } from "@playwright/test";

import { signIn } from "./demo.js";

const base = process.env.BASE_URL ?? "http://127.0.0.1:8080";
if (!/^http:\/\/(127\.0\.0\.1|localhost)[:/]/.test(base + "/")) throw new Error("only a program on this machine is measured");
const browser = await chromium.launch({
  executablePath: "/usr/bin/chromium",
  args: ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-component-update", "--disable-sync"],
});

/** A person at the program, who counts. */
async function person(width, height) {
  const page = await browser.newPage({ viewport: { width, height } });
  await signIn(page.context(), base);
  page.setDefaultTimeout(60_000); // a busy machine is slow, not wrong
  const count = { clicks: 0, typed: 0 };
  const settle = async () => {
    await page.waitForLoadState("networkidle");
    await page.waitForTimeout(60);
  };
  const at = (what) => (typeof what === "string" ? page.locator(what) : what).first();
  const me = {
    page, count,
    async click(what, options) {
      count.clicks++;
      await at(what).click(options);
      await settle();
    },
    /** Opens the folds something is in, a click each. */
    async open(what) {
      const folds = await at(what).evaluateAll ? await page.locator("details").evaluateAll((all) => all.length) : 0;
      if (!folds) return;
      const closed = await at(what).evaluate((el) => {
        const out = [];
        for (let d = el.closest("details"); d; d = d.parentElement?.closest("details") ?? null) if (!d.open) { d.open = true; out.push(d.id); }
        return out.length;
      });
      count.clicks += closed;
    },
    async type(what, text) {
      const field = at(what);
      const here = () => field.evaluate((el) => el === document.activeElement);
      if (!(await here())) {
        await page.keyboard.press("Tab");
        await settle();
        if (!(await here())) {
          count.clicks++;
          await field.click();
        }
      }
      count.typed++;
      await field.fill(text);
    },
    /** Leaves the field typed in last, so that it is saved. */
    async leave() {
      await page.evaluate(() => document.activeElement?.blur());
      await settle();
    },
    async choose(what, label) {
      count.clicks += 2;
      await at(what).selectOption(label);
      await settle();
    },
    button: (name, exact = true) => page.getByRole("button", { name, exact }),
    stage: (name) => me.click(page.getByRole("navigation", { name: "The job's road" }).getByRole("link", { name: new RegExp(name) })),
    async place(name, x, y) {
      await me.click(me.button(name));
      const box = await page.locator("#plan").boundingBox();
      await me.click("#plan", { position: { x: box.width * x, y: box.height * y } });
    },
    async start(title, units) {
      await page.goto(base);
      await me.type(page.getByLabel("Job", { exact: true }), title);
      await me.type(page.getByLabel("Customer", { exact: true }), "A customer");
      if (units === "metric") await me.choose("#units", "metric");
      await me.click(page.getByRole("button", { name: /Start the job/ }));
      await page.waitForURL(/\/jobs\//);
      if (!page.url().includes("/survey")) await me.stage("Survey");
    },
  };
  return me;
}

const only = new RegExp(process.env.ONLY ?? "."); // of the jobs; the screens are counted with all of them alone
const results = [];
async function job(name, before, width, height, work) {
  if (!only.test(name)) return;
  const me = await person(width, height);
  try {
    await work(me);
    const open = await me.page.locator(".print-findings .grade.stop").count();
    results.push([name, me.count.clicks, me.count.typed, before, open]);
  } catch (error) {
    process.exitCode = 1;
    console.error(`${name}: ${error.message.split("\n").slice(0, 6).join("\n")}`);
    await me.page.screenshot({ path: ".velvet/clicks-failed.png", fullPage: true });
  }
  await me.page.close();
}

/** What every survey types: the shell, the inside, the battery. */
async function shell(me, length, width) {
  await me.type("#f-rig-length_mm", length);
  await me.type("#f-rig-width_mm", width);
  await me.leave();
}
async function inside(me, inch) {
  const t = (feet, mm) => (inch ? feet : mm);
  await me.open("#f-rig-crown_mm");
  await me.type("#f-rig-crown_mm", t("1 1/2", "40"));
  await me.open("#f-rig-framing_first_mm");
  await me.type("#f-rig-framing_first_mm", t("16", "400"));
  await me.type("#f-rig-framing_spacing_mm", t("16", "400"));
  await me.leave();
  await battery(me, inch);
}
async function battery(me, inch) {
  await me.open("#f-rig-inside_height_mm");
  await me.type("#f-rig-inside_height_mm", inch ? "6' 6" : "1980");
  await me.leave();
  await me.place("Equipment board", 0.4, 0.25);
  await me.place("Battery", 0.3, 0.25);
}
async function cupboard(me, x, y, l, w) {
  const p = me.page;
  await me.open(p.getByRole("button", { name: "Add a cupboard", includeHidden: true }));
  await me.click(p.getByRole("button", { name: "Add a cupboard" }));
  const region = p.getByRole("region", { name: "Cupboards and chases below the roof" });
  for (const [label, text] of [["From nose", x], ["From street side", y], ["Along", l], ["Across", w]]) await me.type(region.getByLabel(label, { exact: true }), text);
  await me.leave();
}
/** From wired strings to paper: entry, cables with their fuses, print. */
async function toPaper(me, entry = true) {
  const p = me.page;
  if (entry) {
    await me.stage("Holes");
    await me.click(p.getByRole("button", { name: /^Place (the entry|one)/ }));
  }
  await me.stage("Cables");
  for (let i = 0; i < 12; i++) { // the cures are beside what is missing
    await p.waitForTimeout(250); // the answered page takes the old one's place
    const cure = p.locator("#to-check .cure button:visible").first();
    if (!(await cure.count())) break;
    await me.click(cure);
  }
  await me.click(p.getByRole("link", { name: "Print" }));
}

await job("desk: survey to print of a new trailer", [97, 57], 1280, 800, async (me) => {
  const p = me.page;
  await me.start("A new trailer", "imperial");
  await shell(me, "23' 8", "7' 10");
  await inside(me, true);
  await me.place("Air conditioner", 0.5, 0.4);
  await me.type("#tape-nose", "10' 6");
  await me.type("#tape-street", "2' 9");
  await me.leave();
  await me.place("Fan", 0.75, 0.5);
  await me.type("#tape-nose", "18'");
  await me.type("#tape-street", "3' 3");
  await me.leave();
  await cupboard(me, "8'", "0", "2'", "20");
  await me.stage("Roof");
  await me.click(p.getByRole("link", { name: "Work out layouts" }));
  await me.type(p.locator(".on-hand li", { hasText: "long 228 W" }).locator("input"), "any");
  await me.click("[data-work]");
  await p.waitForFunction(() => /worked out$/.test(document.querySelector("[role=status]")?.textContent ?? ""), null, { timeout: 60000 });
  await me.click(p.locator('.layout-card[data-goal="watts"]').getByRole("button", { name: "Use this layout" }));
  await me.stage("Strings");
  await me.click(p.getByRole("link", { name: /wiring options/ }));
  await me.click(p.getByRole("button", { name: "Use this option" }).first());
  await toPaper(me);
});

await job("desk: a portable panel alone", [32, 15], 1280, 800, async (me) => {
  const p = me.page;
  await me.start("A portable panel", "metric");
  await shell(me, "5200", "2100");
  await battery(me, false);
  await me.stage("Roof");
  await me.click(p.locator(".palette li", { hasText: "portable" }).getByRole("button"));
  await me.stage("Strings");
  await me.click(p.getByRole("button", { name: "Use this option" }));
  await me.stage("Controllers");
  await me.click(p.getByRole("region", { name: "Controllers of the shelf" }).getByRole("button"));
  await toPaper(me, false);
});

await job("desk: six changes of mind on twelve panels", [36, 3], 1280, 800, async (me) => {
  const p = me.page;
  // Set up without counting: twelve panels, wired.
  await me.start("Changes of mind", "metric");
  await shell(me, "9200", "2400");
  await me.stage("Roof");
  for (let i = 0; i < 12; i++) await me.click(p.locator(".palette li", { hasText: "half-length 84 W" }).getByRole("button"));
  me.count.clicks = me.count.typed = 0;
  // 1: turn three at once; 2: another layout; 3: keep one and lay out again; 4: one less; 5: take the last back; 6: wire them otherwise.
  const marks = p.locator("#plan .panel-mark");
  await me.click(marks.nth(0));
  await me.click(marks.nth(1), { modifiers: ["Shift"] });
  await me.click(marks.nth(2), { modifiers: ["Shift"] });
  await me.click(p.locator(".on-panel").getByRole("button", { name: /Turn/ }));
  await me.click(p.getByRole("link", { name: "Work out layouts" }));
  await me.click("[data-work]");
  await p.waitForFunction(() => /worked out$/.test(document.querySelector("[role=status]")?.textContent ?? ""), null, { timeout: 60000 });
  await me.click(p.locator('.layout-card[data-goal="way"]').getByRole("button", { name: "Use this layout" }));
  await me.click(p.getByRole("link", { name: "Work out layouts" }));
  await me.click(p.locator('input[name^="keep/"]').first());
  await me.type("#least", "600");
  await me.click("[data-work]");
  await p.waitForFunction(() => /worked out$/.test(document.querySelector("[role=status]")?.textContent ?? ""), null, { timeout: 60000 });
  await me.click(p.locator('.layout-card[data-goal="holes"]').getByRole("button", { name: "Use this layout" }));
  await me.click(p.locator("#plan .panel-mark").first());
  await me.click(p.locator(".on-panel").getByRole("button", { name: /Take off/ }));
  await me.click(p.locator("[data-take=undo]"));
  await me.stage("Strings");
  await me.click(p.getByRole("link", { name: /wiring options/ }));
  await me.click(p.getByRole("button", { name: "Use this option" }).first());
  await me.click(p.getByRole("link", { name: /wiring options/ }));
  await me.click(p.getByRole("button", { name: "Use this option" }).nth(1));
});

await job("desk: adding to old panels", [48, 30], 1280, 800, async (me) => {
  const p = me.page;
  await me.start("Adding to old ones", "metric");
  await shell(me, "7400", "2300");
  await inside(me, false);
  for (const [nose, x] of [["700", 0.2], ["2300", 0.4]]) {
    await me.place("Old panel", x, 0.4);
    await me.type("#tape-nose", nose);
    await me.type("#tape-street", "200");
    await me.leave();
    const keep = p.locator(".hand").getByRole("button", { name: /[Kk]eep/ });
    await me.click(keep);
  }
  await me.stage("Roof");
  for (let i = 0; i < 2; i++) await me.click(p.locator(".palette li", { hasText: "mid 172 W" }).getByRole("button"));
  await me.stage("Strings");
  await me.click(p.getByRole("link", { name: /wiring options/ }));
  await me.click(p.getByRole("button", { name: "Use this option" }).first());
  await toPaper(me);
});

await job("phone: record of a job", [24, 13], 390, 844, async (me) => {
  const p = me.page;
  // Set up without counting: the demo's job 64 as a copy, with its entry.
  await p.goto(base);
  await me.click(p.getByRole("button", { name: "Copy job 64" }));
  const at = p.url().replace(/\/[^/]*$/, "");
  await p.goto(`${at}/record`);
  me.count.clicks = me.count.typed = 0;
  const rest = p.getByRole("button", { name: /^The rest as planned/ });
  await me.click(p.getByText("moved", { exact: true }));
  await me.type(p.locator(".built-form").getByLabel("Now, from the nose"), "1010");
  await me.type(p.locator(".built-form").getByLabel("Why"), "a seam");
  await Promise.all([p.waitForResponse((r) => /\/(edit|fields)$/.test(r.url())), me.click(p.getByRole("button", { name: "Save", exact: true }))]);
  await p.waitForTimeout(250); // the answered page takes the old one's place
  await me.click(rest);
  for (let i = 0; i < 3; i++) {
    const serial = p.getByLabel(/^Serial of /).first();
    if (!(await serial.count())) break;
    await me.type(serial, `N-${i}00${i}`);
    await me.leave();
  }
  const why = p.getByLabel(/Why sign/);
  if (await why.count()) await me.type(why, "the bond's maker says what it holds");
  await me.click(p.getByRole("button", { name: "Sign off" }));
  await p.locator(".signed-note").first().waitFor();
});

for (const [name, clicks, typed, before, open] of results) console.log(`${name}: ${clicks} clicks, ${typed} typed (before ${before.join(", ")}); ${Math.round((1 - clicks / before[0]) * 100)} % and ${Math.round((1 - typed / before[1]) * 100)} % fewer; ${open} stops left`);

if (process.env.ONLY) process.exit();

// Words that each main screen shows, without what is folded, and heights on a phone.
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
await signIn(page.context(), base);
const phone = await browser.newPage({ viewport: { width: 390, height: 844 } });
await signIn(phone.context(), base);
await page.goto(base);
const link = await page.locator(".job-card", { has: page.locator('.job-number:text-is("64")') }).getAttribute("href");
const pages = { board: "/", ...Object.fromEntries(["survey", "roof", "layouts", "strings", "wirings", "controllers", "holes", "cables", "record", "markout", "print"].map((s) => [s, `${link}/${s}`])), shelf: "/shelf" };
for (const [name, path] of Object.entries(pages)) {
  await page.goto(base + path);
  const words = await page.evaluate(() => {
    document.querySelectorAll("option").forEach((o) => o.remove()); // a list shows one of them
    return document.querySelector("main").innerText.split(/\s+/).filter((w) => /\p{L}/u.test(w)).length;
  });
  await phone.goto(base + path);
  console.log(`${name}: ${words} words; ${await phone.evaluate(() => document.documentElement.scrollHeight)} px high at 390 px`);
}
await browser.close();
