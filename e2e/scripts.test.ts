// The scripts that measure a running program and take its pictures, each at its shortest:
// they break when a page changes under them.
import { execFile } from "node:child_process";
import { mkdtemp, readdir, rm } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { promisify } from "node:util";

import { expect, test } from "@playwright/test";

/** Runs a script of package.json against the program under test, and gives what it printed. */
async function run(name: string, env: Record<string, string> = {}) {
  test.setTimeout(300_000);
  try {
    const { stdout } = await promisify(execFile)("npm", ["run", "--silent", name], { env: { ...process.env, ...env }, timeout: 280_000 });
    return stdout;
  } catch (error) {
    const { stdout, stderr } = error as { stdout: string; stderr: string };
    throw new Error(`npm run ${name}: ${stdout}\n${stderr}`);
  }
}

test("figures of a running program are measured", async () => {
  const out = await run("figures", { QUICK: "1" });
  for (const line of ["first visit", "edit to the redrawn page", "frames a second", "twenty people"]) expect(out).toContain(line);
  expect(out).not.toContain("NaN");
});

test("sessions without a connection are driven, and nothing is lost", async () => {
  expect(await run("away", { SESSIONS: "1" })).toContain("10 edits: 0 lost, 0 doubled, 0 sessions out of order");
});

test("clicks of a job are counted", async () => {
  expect(await run("clicks", { ONLY: "portable" })).toMatch(/portable panel alone: \d+ clicks, \d+ typed .* 0 stops left/);
});

test("pictures are taken of what is on the pages", async () => {
  const out = await mkdtemp(join(tmpdir(), "velvet-shots-"));
  try {
    await run("shots", { OUT: out, QUICK: "1" });
    const taken = await readdir(out);
    expect(taken.length).toBeGreaterThan(3);
    expect(await readdir("docs/screenshots")).toEqual(expect.arrayContaining(taken));
  } finally {
    await rm(out, { recursive: true });
  }
});

test("the other scripts are those that build and test", async () => {
  const { scripts } = JSON.parse(await (await import("node:fs/promises")).readFile("package.json", "utf8")) as { scripts: Record<string, string> };
  const elsewhere = ["build", "build:css", "build:js", "build:fonts", "build:towns", "check", "e2e", "spell"]; // run by bin/build and bin/test
  expect(Object.keys(scripts).sort()).toEqual([...elsewhere, "figures", "away", "clicks", "shots"].sort());
});
