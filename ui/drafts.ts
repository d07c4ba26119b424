// What is typed and not saved: it is kept while it is typed, comes back when the page is
// made again, and goes when it is saved or taken back. The revision in which the typing
// began is kept with it, so that somebody else's change in between is noticed.
import { drafts, type Draft } from "./keep";

const mine = new Map<string, Draft>();
let job = "";
let person = 0;

/** What a field's text is kept as: its own of whoever types on a shared device. */
export const keyOf = (field: string) => `${job} ${person} ${field}`;
type Field = HTMLInputElement | HTMLTextAreaElement;
/** Fields of the job: those that are saved by themselves or with their form, and reasons; what is searched or wished for is none. */
const isField = (el: unknown): el is Field =>
  ((el instanceof HTMLInputElement && !["radio", "checkbox", "file", "hidden", "range"].includes(el.type)) || el instanceof HTMLTextAreaElement) && (el.dataset.auto !== undefined || el.closest("form[data-form],form[data-reason],form[data-kept]") !== null);

/** Reads what a person left in a job's fields, and puts it back. */
export async function open(of: string, by: number) {
  [job, person] = [of, by];
  for (const d of await drafts.all(of, by)) {
    const key = keyOf(d.field);
    if (mine.has(key)) continue; // typed since
    mine.set(key, { ...d, key, person });
    if (d.key !== key) void drafts.put(mine.get(key)!).then(() => drafts.drop(d.key)); // kept by an older program
  }
  restore();
}

/** Lets go of everything that was typed there. */
export async function clear(of: string, by: number) {
  for (const d of await drafts.all(of, by)) await drafts.drop(d.key);
}

/** Notes what is in a field while somebody types. */
export function typed(el: EventTarget | null, base: number) {
  if (!isField(el) || !el.id || !job) return;
  const key = keyOf(el.id);
  if (el.value === el.defaultValue) return saved(el.id);
  const d: Draft = { key, job, person, field: el.id, value: el.value, base: mine.get(key)?.base ?? base };
  mine.set(key, d);
  void drafts.put(d).catch(() => undefined); // the field has it; a full store is told when it is saved
}

/** Keeps a field's text again which was to be saved, and could not be. */
export function unsaved(field: string) {
  const d = mine.get(keyOf(field));
  if (d) void drafts.put(d).catch(() => undefined);
}

/** Says why a field's text cannot be. */
export function wrong(field: string, why: string) {
  const d = mine.get(keyOf(field));
  if (!d) return;
  d.wrong = why;
  unsaved(field);
}

/** Lets go of a field's text: it is saved, or as it was. */
export function saved(field: string) {
  if (mine.delete(keyOf(field))) void drafts.drop(keyOf(field));
}

/** The revision in which the typing of any of these fields began. */
export function began(fields: Iterable<Element>, base: number): number {
  for (const el of fields) base = Math.min(base, mine.get(keyOf(el.id))?.base ?? base);
  return base;
}

/** Puts kept text back into its fields after the page was made again. */
export function restore() {
  for (const d of mine.values()) {
    const el = document.getElementById(d.field);
    if (!isField(el) || el.disabled) continue;
    if (el.value !== d.value) el.value = d.value;
    const line = document.getElementById(`${d.field}-wrong`);
    if (!line || document.activeElement === el) continue;
    if (d.wrong) el.setAttribute("aria-invalid", "true");
    line.textContent = d.wrong ?? "Typed, not saved yet.";
    line.hidden = false;
    for (let fold = el.closest("details"); fold; fold = fold.parentElement?.closest("details") ?? null) fold.open = true;
  }
}
