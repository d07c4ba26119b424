// What a page sends and how the answer takes its place.
import { Idiomorph } from "idiomorph";

export type Answer = { revision: number; parts: Record<string, string>; shown?: { stage: string; name: string } };
type Refused = { error: { says: string; fields?: Record<string, string>; theirs?: { author: string; says: string }[] } };
export type Body = Record<string, unknown>;

/** A random UUID; crypto.randomUUID is there only in secure contexts. */
export function uuid(): string {
  const b = crypto.getRandomValues(new Uint8Array(16));
  b[6] = (b[6] & 0x0f) | 0x40;
  b[8] = (b[8] & 0x3f) | 0x80;
  const hex = [...b].map((x) => x.toString(16).padStart(2, "0")).join("");
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
}

export const page = () => document.getElementById("page") as HTMLElement;

export function toast(says: string, link?: { href: string; text: string }) {
  const box = document.getElementById("toast") as HTMLElement;
  box.textContent = says;
  if (link) {
    const a = document.createElement("a");
    a.href = link.href;
    a.textContent = link.text;
    box.append(" ", a);
  }
  box.hidden = says === "";
  if (says) setTimeout(() => box.textContent?.startsWith(says) && (box.hidden = true), 9000);
}

const shown = new Map<string, string>();

/** Puts an answered part in its place, keeping focus and what is being typed. What is there already stays as it is. */
function put(id: string, html: string) {
  if (shown.get(id) === html) return;
  if (id === "page" || id === "findings") shown.clear();
  shown.set(id, html);
  const old = document.getElementById(id);
  // What is being typed stays; a panel that has the focus is drawn again.
  const typing = document.activeElement instanceof HTMLInputElement;
  if (old) Idiomorph.morph(old, html, { morphStyle: "outerHTML", ignoreActiveValue: typing, callbacks: { beforeNodeMorphed: keepOpen } });
}

/** What somebody set on the page outlives its being rendered again: open folds, the plan's zoom. */
function keepOpen(was: Node, now: Node) {
  if (was instanceof HTMLDetailsElement && now instanceof HTMLDetailsElement && was.open) now.open = true;
  if (was instanceof SVGSVGElement && now instanceof SVGSVGElement && was.dataset.zoomed) {
    now.dataset.zoomed = was.dataset.zoomed;
    now.setAttribute("viewBox", was.getAttribute("viewBox") ?? "");
  }
  return true;
}

let queue: Promise<unknown> = Promise.resolve();

/** Sends one request after the other, so that edits arrive in the order they were made. */
export function send(path: string, body: Body, silent = false): Promise<Answer | undefined> {
  const next = queue.then(() => post(path, body, silent));
  queue = next.catch(() => undefined);
  return next;
}

async function post(path: string, body: Body, silent: boolean): Promise<Answer | undefined> {
  const at = page().dataset;
  const full = { base: Number(at.revision), stage: at.stage, select: at.select ?? "", asked: location.search, passed: Boolean(document.querySelector(".passed[open]")), ...body };
  let response: Response;
  try {
    response = await fetch(`/api/jobs/${at.job}/${path}`, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(full) });
  } catch {
    if (!silent) toast("The program does not answer. What you typed is still in its field; try again when it does.");
    return undefined;
  }
  if (!response.ok) {
    const refused = (await response.json().catch(() => ({ error: { says: "The program could not do that; nothing was changed." } }))) as Refused;
    if (!silent) refuse(refused, body);
    if (response.status === 409 && !silent) await post("show", {}, true);
    return undefined;
  }
  const answer = (await response.json()) as Answer;
  if (typeof full.select === "string") page().dataset.select = full.select;
  for (const [id, html] of Object.entries(answer.parts)) if (id !== "live") put(id, html);
  if (answer.parts.page) clearWrong();
  return answer;
}

function clearWrong() {
  document.querySelectorAll<HTMLElement>(".wrong:not([hidden])").forEach((w) => (w.hidden = true));
  document.querySelectorAll("[aria-invalid]").forEach((e) => e.removeAttribute("aria-invalid"));
}

let actingForm: HTMLFormElement | null = null;
let typedIn: HTMLInputElement | null = null;

/** Names the field whose text is sent next: a value may have two on a page, on the plan and below it. */
export function typing(field: HTMLInputElement) {
  typedIn = field;
}

/** Names the form whose reason the next act carries, so that what is wrong with it is shown there. */
export function acting(form: HTMLFormElement | null) {
  actingForm = form;
}

/** Shows a refusal at its fields; what belongs to none is said in the toast. */
function refuse(refused: Refused, body: Body) {
  const { says, fields = {}, theirs = [] } = refused.error;
  let placed = 0;
  for (const [key, why] of Object.entries(fields)) {
    const id = body.name ? `f-${String(body.name)}-${key}`.replace(/[/.]/g, "-") : "";
    const here = typedIn?.isConnected && typedIn.name === key && typedIn.dataset.auto === body.name ? typedIn : null;
    const input = here || (id && document.getElementById(id)) || actingForm?.querySelector<HTMLElement>(`[name="${key}"]`);
    if (!input) continue;
    wrong(input as HTMLInputElement, why);
    placed++;
  }
  toast(placed ? "" : [says, ...theirs.map((t) => `${t.author}: ${t.says}`)].join(" "));
}

function wrong(input: HTMLInputElement, why: string) {
  input.setAttribute("aria-invalid", "true");
  const line = document.getElementById(`${input.id}-wrong`) ?? document.getElementById("tape-wrong");
  if (!line) return toast(why);
  line.textContent = why;
  line.hidden = false;
  input.setAttribute("aria-errormessage", line.id);
}

/** Makes an act's edit; "$1", "$2:in" … become new IDs, "$reason" the reason given. */
export function act(text: string, reason = "") {
  const ids = new Map<string, string>();
  const filled = text.replace(/"\$(\d+)([":])/g, (_, n: string, end: string) => {
    if (!ids.has(n)) ids.set(n, uuid());
    return `"${ids.get(n)}${end}`;
  }).replaceAll('"$reason"', () => JSON.stringify(reason));
  const a = JSON.parse(filled) as { Says: string; Changes: unknown[]; Select: string };
  const select = a.Select || page().dataset.select || "";
  return send("edit", { id: uuid(), says: a.Says, reason, changes: a.Changes, select });
}
