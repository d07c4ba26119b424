// What a page sends and how the answer takes its place. An edit is kept on this device
// before it is sent, and until the server has confirmed it.
import { Idiomorph } from "idiomorph";

import * as drafts from "./drafts";
import { entries, type Body, type Clash, type Entry, type Wrong } from "./keep";
import { flush, told, type Answer, type Told, type Went } from "./queue";

export type { Answer, Body };

/** A random UUID; crypto.randomUUID is there only in secure contexts. */
export function uuid(): string {
  const b = crypto.getRandomValues(new Uint8Array(16));
  b[6] = (b[6] & 0x0f) | 0x40;
  b[8] = (b[8] & 0x3f) | 0x80;
  const hex = [...b].map((x) => x.toString(16).padStart(2, "0")).join("");
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
}

export const page = () => document.getElementById("page") as HTMLElement;

const meta = (name: string) => Number(document.querySelector<HTMLMetaElement>(`meta[name="${name}"]`)?.content ?? 0);

/** Who is signed in, and of which crew; 0 for nobody. */
export const person = () => meta("person");
export const crew = () => meta("crew");

export function toast(says: string, link?: { href: string; text: string }) {
  const box = document.getElementById("toast");
  if (!box) return;
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
  drafts.restore();
  document.querySelectorAll<HTMLFormElement>("form[x-data=built]").forEach(narrow);
}

/** A form shows only what its outcome asks for. */
export function narrow(form: HTMLFormElement) {
  const pick = form.elements.namedItem("outcome") as RadioNodeList | HTMLSelectElement;
  form.querySelectorAll<HTMLElement>("[data-when]").forEach((w) => (w.hidden = !w.dataset.when!.split(" ").includes(pick.value)));
}

/** What was chosen in a form and not sent yet stays chosen. */
function keepChoice(was: Node, now: Node) {
  const formOf = (el: Element) => (el.closest("form[data-form]") as HTMLFormElement | null)?.dataset.form;
  if (was instanceof HTMLInputElement && now instanceof HTMLInputElement && was.type === "radio" && was.name === now.name && was.value === now.value && formOf(was) && formOf(was) === formOf(now)) {
    if (was.checked !== was.defaultChecked) now.toggleAttribute("checked", was.checked);
  }
  if (was instanceof HTMLSelectElement && now instanceof HTMLSelectElement && was.dataset.auto === undefined && was.id === now.id && formOf(was)) {
    if (was.selectedOptions[0]?.defaultSelected === false) for (const o of now.options) o.toggleAttribute("selected", o.value === was.value);
  }
}

/** What somebody set on the page outlives its being rendered again: open folds, the plan's zoom, what the page itself keeps up to date. */
function keepOpen(was: Node, now: Node) {
  if (was instanceof HTMLElement && was.dataset.own !== undefined) return false;
  keepChoice(was, now);
  if (was instanceof HTMLDetailsElement && now instanceof HTMLDetailsElement && was.open) now.open = true;
  if (was instanceof SVGSVGElement && now instanceof SVGSVGElement && was.dataset.zoomed) {
    now.dataset.zoomed = was.dataset.zoomed;
    now.setAttribute("viewBox", was.getAttribute("viewBox") ?? "");
  }
  return true;
}

let queue: Promise<unknown> = Promise.resolve();
let begun = 0; // what was sent or asked for on this page

/** Sends one request after the other, so that edits arrive in the order they were made. */
export function send(path: string, body: Body, silent = false): Promise<Answer | undefined> {
  begun++;
  const keeps = (path === "edit" || path === "fields") && !body.try;
  const sent = keeps ? { ...from(), ...body, base: Math.min(Number(from().base), began(body)) } : {}; // what the page shows now is what it was made from
  const fields = fieldsOf(body).map((el) => el.id);
  const kept = keeps ? keep(path, body, sent, fields) : undefined;
  const next = queue.then(() => (kept ? kept.then((k) => write(k, body, fields)) : path === "undo" ? takeBack(body) : post(path, body, silent)));
  queue = next.catch(() => undefined);
  return next;
}

/** What a request says of the page that it comes from. */
const from = (): Body => {
  const at = page().dataset;
  return { person: person(), base: Number(at.revision), stage: at.stage, select: at.select ?? "", asked: location.search, passed: Boolean(document.querySelector(".passed[open]")) };
};

/** Edits that this page made, with the revision that each became as far as it is known. */
const made = new Map<string, number | undefined>();

told.add((e, went) => {
  if (went.how === "done" && went.answer && (made.has(e.id) || withWaiting().includes(e.id))) made.set(e.id, went.answer.revision);
});

/** Tells whether an edit is one of this page's. */
export const isMine = (id: string) => made.has(id);

/** The edits waiting on this device that the page was made with. */
export const withWaiting = () => (page().dataset.knows ?? "").split(" ").filter(Boolean);

/** Keeps an edit in the moment it is made: the page may be closed in the next. */
async function keep(path: "edit" | "fields", body: Body, sent: Body, fields: string[]): Promise<Entry> {
  const since = [...made].filter(([, revision]) => revision === undefined || revision > Number(sent.base)).map(([id]) => id);
  sent.knows = [...new Set([...withWaiting(), ...since])].slice(-500);
  const entry = entryOf(String(body.id), inWords(body), path, sent);
  const added = await entries.add(entry, fields.map(drafts.keyOf));
  warn(added);
  return added;
}

/** What waits of this page's job, made now by whoever is signed in. */
function entryOf(id: string, says: string, path: Entry["path"], body: Body): Entry {
  made.set(id, undefined);
  return { id, job: page().dataset.job!, about: aboutJob(), says, person: person(), crew: crew(), path, body, at: new Date().toISOString() };
}

/** Says that this device cannot keep what was done. */
function warn(e: Entry) {
  if (e.loose === "full") toast("This device has no room left to keep what you do: it is sent now, and lasts only while this page is open if that fails. Make room, or save what waits as a file.");
  if (e.loose === "closed") toast("This browser keeps nothing (a private window?): what you do is sent now, and lasts only while this page is open if that fails.");
}

async function write(entry: Entry, body: Body, fields: string[]): Promise<Answer | undefined> {
  const sent = entry.body;
  const went = await deliver(entry);
  if (went.how === "done") {
    fields.forEach(drafts.saved);
    if (!went.answer) return post("show", typeof body.select === "string" ? { select: body.select } : {}, true);
    took(went.answer, sent);
    return went.answer;
  }
  if (went.how === "refused") {
    if (went.wrong.clash) clashed(went.wrong.clash);
    else refuse(went.wrong, body);
    if (went.status === 409 || went.status === 410) await post("show", {}, true);
    return undefined;
  }
  if (went.other) {
    toast(went.other, { href: location.pathname, text: "Load it again" });
    return undefined;
  }
  if (went.signedOut) toast("You are not signed in any more. What you typed waits on this device.", { href: `/sign-in?to=${encodeURIComponent(location.pathname)}`, text: "Sign in" });
  if (entry.loose) return undefined; // the worker does not know of it: what was typed stays in its field
  const local = await here(entry.path, sent);
  if (local?.error) {
    await entries.drop(entry.seq!); // it cannot be, with or without a connection
    refuse(local.error, body);
    return undefined;
  }
  fields.forEach(drafts.saved);
  if (local) took(local, sent);
  else toast("The program does not answer. What you did waits on this device and is sent when it answers.");
  return local;
}

/** Refusals of what was sent itself, by HTTP status: the page says why where it was typed or pressed. What others or time have changed (409, 410, 404) is for the list. */
const atOnce = [403, 422];

/** Sends what waits, this entry last, and tells how it went with it. */
async function deliver(entry: Entry): Promise<Went> {
  let mine: Went | undefined;
  const hear: Told = (e, went) => {
    if (e.id !== entry.id) return true; // an older one that is refused stays for a person to decide
    mine = went;
    return went.how !== "refused" || !atOnce.includes(went.status);
  };
  told.add(hear);
  await flush(entry.person).finally(() => told.delete(hear));
  if (mine) return mine;
  // Another tab has sent it, or it waits behind one that cannot go.
  const still = (await entries.all(entry.job)).find((e) => e.seq === entry.seq);
  if (still?.wrong) return { how: "refused", status: 0, wrong: still.wrong };
  return still ? { how: "waits" } : { how: "done" };
}

/** Takes back the last edit that waits on this device, else asks the server to take one's last back. */
async function takeBack(body: Body): Promise<Answer | undefined> {
  const waiting = (await entries.all(page().dataset.job)).filter((e) => e.person === person() && !e.wrong);
  const last = waiting.at(-1);
  if (!last) return post("undo", body, false);
  await entries.drop(last.seq!);
  return post("show", {}, false);
}

/** Keeps a photo until the server has it, and shows the page with it. */
export async function picture(data: FormData): Promise<boolean> {
  const file = data.get("file") as File;
  const entry = entryOf(uuid(), `photo ${String(data.get("caption") ?? "")}`.trim(), "photos", {});
  const added = await entries.add({ ...entry, photo: { file, name: file.name, about: String(data.get("about") ?? ""), caption: String(data.get("caption") ?? ""), taken: String(data.get("taken") ?? entry.at) } });
  warn(added);
  const went = await deliver(added);
  if (went.how === "refused") {
    toast(went.wrong.says);
    return false;
  }
  await (went.how === "waits" ? here("show", from()).then((a) => a && took(a, {})) : post("show", {}, true));
  return true;
}

/** What a request does, in words: its own, or each field by its label with what was typed. */
function inWords(body: Body): string {
  const typed = Object.entries((body.fields as Record<string, string>) ?? {}).filter(([, text]) => text);
  const parts = typed.map(([key, text]) => {
    const el = fieldsOf({ name: body.name, fields: { [key]: "" } })[0];
    const shown = el instanceof HTMLSelectElement ? (el.selectedOptions[0]?.textContent ?? text) : text;
    const label = el?.labels?.[0]?.textContent?.trim() || el?.getAttribute("aria-label") || key.replace(/_(mm|v|a|w|c|kg|deg|pct)$/, "").replaceAll("_", " ");
    return `${label}: ${shown}`;
  });
  return [body.says, parts.join(", ")].filter(Boolean).join(": ") || "a change";
}

const aboutJob = () => document.querySelector(".bar-job")?.textContent?.replace(/\s+/g, " ").trim() ?? "";

/** Has a request answered on this device, with all that waits; undefined where no worker controls the page. */
async function here(path: string, body: Body): Promise<Answer | undefined> {
  if (!navigator.serviceWorker?.controller) return undefined;
  const response = await fetch(`/api/jobs/${page().dataset.job}/${path}`, { method: "POST", headers: { "Content-Type": "application/json", "X-Here": "yes" }, body: JSON.stringify(body) }).catch(() => undefined);
  if (!response || response.status >= 500) return undefined; // the job was not taken along
  return (await response.json().catch(() => undefined)) as Answer | undefined;
}

/** Shows what others have done, beside what is done here and behind it: an answer that comes after something was done is let go. */
export async function look(): Promise<Answer | undefined> {
  const at = begun;
  await queue;
  return at === begun ? post("show", { follow: true }, true, () => at === begun) : undefined;
}

export async function post(path: string, body: Body, silent: boolean, still = () => true): Promise<Answer | undefined> {
  const full = { ...from(), ...body };
  let response: Response;
  try {
    response = await fetch(`/api/jobs/${page().dataset.job}/${path}`, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify(full) });
  } catch {
    if (!silent) toast("The program does not answer. Try again when it does.");
    return undefined;
  }
  const answer = (await response.json().catch(() => undefined)) as Answer | undefined;
  if (!response.ok || !answer) {
    const wrong = answer?.error ?? { says: "The program could not do that. Load the page again and look." };
    if (wrong.other) toast(wrong.says, { href: location.pathname, text: "Load it again" });
    else if (response.status === 401 && !silent) toast(wrong.says, { href: `/sign-in?to=${encodeURIComponent(location.pathname)}`, text: "Sign in" });
    else if (!silent) refuse(wrong, body);
    if (response.status === 409 && !silent && path !== "show") await post("show", {}, true);
    return undefined;
  }
  if (!still()) return undefined;
  took(answer, full);
  return answer;
}

/** Puts an answer on the page. */
function took(answer: Answer, sent: Body) {
  if (typeof sent.select === "string") page().dataset.select = sent.select;
  for (const [id, html] of Object.entries(answer.parts)) if (id !== "live") put(id, html);
  if (answer.parts.page) clearWrong();
}

function clearWrong() {
  document.querySelectorAll<HTMLElement>(".wrong:not([hidden])").forEach((w) => (w.hidden = true));
  document.querySelectorAll("[aria-invalid]").forEach((e) => e.removeAttribute("aria-invalid"));
  drafts.restore();
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

/** The fields on the page that a request's text comes from. */
const fieldsOf = (body: Body): (HTMLInputElement | HTMLSelectElement)[] => [
  ...(body.reason && actingForm ? [...actingForm.querySelectorAll<HTMLInputElement>('[name="reason"]')] : []),
  ...Object.keys((body.fields as Record<string, string>) ?? {}).flatMap((key) => {
    const id = body.name ? `f-${String(body.name)}-${key}`.replace(/[/.]/g, "-") : "";
    const here = typedIn?.isConnected && typedIn.name === key && typedIn.dataset.auto === body.name ? typedIn : null;
    return [here, id ? document.getElementById(id) : null].filter((el): el is HTMLInputElement | HTMLSelectElement => el !== null);
  }),
];
const began = (body: Body) => drafts.began(fieldsOf(body), Number(page().dataset.revision));

/** Shows a refusal at its fields; what belongs to none is said in the toast. */
function refuse(refused: Wrong, body: Body) {
  const { says, fields = {} } = refused;
  fieldsOf(body).map((el) => el.id).forEach(drafts.unsaved);
  let placed = 0;
  for (const [key, why] of Object.entries(fields)) {
    const id = body.name ? `f-${String(body.name)}-${key}`.replace(/[/.]/g, "-") : "";
    const here = typedIn?.isConnected && typedIn.name === key && typedIn.dataset.auto === body.name ? typedIn : null;
    const input = here || (id && document.getElementById(id)) || actingForm?.querySelector<HTMLElement>(`[name="${key}"]`);
    if (!input) continue;
    drafts.wrong(input.id, why);
    wrong(input as HTMLInputElement, why);
    placed++;
  }
  toast(placed ? "" : says);
}

function wrong(input: HTMLInputElement, why: string) {
  input.setAttribute("aria-invalid", "true");
  const line = document.getElementById(`${input.id}-wrong`) ?? document.getElementById("tape-wrong");
  if (!line) return toast(why);
  line.textContent = why;
  line.hidden = false;
  input.setAttribute("aria-errormessage", line.id);
}

/** Two people changed the same: the list of what waits shows both, and the person chooses. */
function clashed(clash: Clash) {
  toast(clash.signs ? `${clash.by} changed the job since you looked: nothing is signed yet.` : `${clash.by} changed the same: choose which stays.`);
  document.dispatchEvent(new CustomEvent("velvet:choose"));
}

/** Makes an act's edit; "$1", "$2:in" … become new IDs, "$reason" the reason given, "$now" the time. */
export function act(text: string, reason = "") {
  const ids = new Map<string, string>();
  const filled = text.replace(/"\$(\d+)([":])/g, (_, n: string, end: string) => {
    if (!ids.has(n)) ids.set(n, uuid());
    return `"${ids.get(n)}${end}`;
  }).replaceAll('"$reason"', () => JSON.stringify(reason)).replaceAll('"$now"', () => JSON.stringify(new Date().toISOString().replace(/\.\d+/, "")));
  const a = JSON.parse(filled) as { Says: string; Changes: unknown[]; Select: string };
  const select = a.Select || page().dataset.select || "";
  return send("edit", { id: uuid(), says: a.Says, reason, changes: a.Changes, select });
}
