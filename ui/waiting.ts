// What waits on this device, in the bar and as a list: each edit in words, why it was
// refused, and what a person decides about it.
import { entries, listen, type Entry } from "./keep";
import { flush } from "./queue";
import { crew, page, person, post, uuid } from "./send";

const every = 10_000; // ms between attempts while something waits

/** A small builder of elements: text is text, whatever was typed. */
function make<K extends keyof HTMLElementTagNameMap>(tag: K, fill: Partial<HTMLElementTagNameMap[K]> = {}, ...inside: (Node | string)[]): HTMLElementTagNameMap[K] {
  const el = Object.assign(document.createElement(tag), fill);
  el.append(...inside);
  return el;
}

const when = (at: string) => new Date(at).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit", hourCycle: "h23" });

/** Shows how much waits, and sends it when it can be sent. */
export function waiting() {
  const button = document.getElementById("waiting") as HTMLButtonElement | null;
  const list = document.getElementById("waiting-list") as HTMLDialogElement | null;
  if (!button || !list) return;

  const show = async () => {
    const all = await entries.all();
    const refused = all.filter((e) => e.wrong).length;
    button.hidden = all.length === 0;
    button.classList.toggle("refused", refused > 0);
    button.textContent = refused ? `${refused} to decide` : `${all.length} waiting`;
    if (list.open) fill(all);
    marks(all);
    return all;
  };

  const again = () => {
    if (person()) void flush(person());
  };

  /** Makes the list. */
  const fill = (all: Entry[]) => {
    const rows = all.map((e) => row(e));
    list.querySelector("ul")!.replaceChildren(...rows);
    list.querySelector<HTMLElement>(".none")!.hidden = rows.length > 0;
    list.querySelector<HTMLElement>(".acts")!.hidden = rows.length === 0;
  };

  const row = (e: Entry) => {
    if (e.crew !== undefined && e.crew !== crew()) return make("li", { className: "waits" }, make("p", {}, "Somebody of another crew made something on this device; it waits until they sign in."));
    const li = make("li", { className: `waits${e.wrong ? " refused" : ""}` }, make("b", {}, e.says), make("span", { className: "quiet" }, ` ${e.about}, ${when(e.at)}`));
    if (e.photo) {
      const url = URL.createObjectURL(e.photo.file);
      li.append(make("img", { src: url, alt: e.says, className: "waits-photo", onload: () => URL.revokeObjectURL(url) }));
    }
    if (e.person !== person()) {
      li.append(make("p", {}, "Somebody else made it on this device; it waits until they sign in."));
      return li;
    }
    if (!e.wrong) return li;
    const decide = (text: string, act: () => Promise<unknown>) => make("button", { type: "button", onclick: () => void act().then(async () => { await show(); fill(await entries.all()); await refresh(e.job); }) }, text);
    const clash = e.wrong.clash;
    const clashed = clash?.signs ? "%s changed the job since you looked, %t. Nothing is signed yet: look at what is new, then sign." : "%s changed the same, %t. Yours is not saved: choose which stays.";
    li.append(make("p", { className: "why" }, clash ? clashed.replace("%s", () => clash.by).replace("%t", () => when(clash.at)) : e.wrong.says));
    if (clash?.both?.length) {
      const table = make("table", { className: "both" }, make("thead", {}, make("tr", {}, ...(clash.signs ? ["what", "as you saw it", "now"] : ["what", "before", clash.by, "you"]).map((t) => make("th", {}, t)))));
      table.append(make("tbody", {}, ...clash.both.map((b) => make("tr", {}, make("th", {}, b.what), ...(clash.signs ? [b.was, b.theirs] : [b.was, b.theirs, b.mine]).map((t) => make("td", {}, t))))));
      li.append(table);
    }
    const acts = make("p", { className: "row" });
    if (clash) {
      const [go, leave] = clash.signs ? ["Sign it as it is now", "Do not sign"] : ["Use mine", "Keep theirs"];
      acts.append(decide(go, () => retry(e, clash.revision)), decide(leave, () => entries.drop(e.seq!)));
    } else {
      acts.append(decide("Send again", () => retry(e)), decide("Let it go", () => entries.drop(e.seq!)));
    }
    acts.append(make("button", { type: "button", onclick: () => save([e]) }, "Save as a file"));
    li.append(acts);
    return li;
  };

  /** Sends a refused entry again; who has seen both sends it as made after theirs. It is another edit then. */
  const retry = async (e: Entry, base?: number) => {
    await entries.put({ ...e, id: uuid(), body: { ...e.body, id: undefined, ...(base ? { base, knows: [] } : {}) }, wrong: undefined });
    const now = (await entries.all(e.job)).find((x) => x.seq === e.seq);
    if (now) await entries.put({ ...now, body: { ...now.body, id: now.id } });
    await flush(person());
  };

  /** The page as it is now, where it is of that job. */
  const refresh = async (job: string) => {
    if (document.getElementById("page") && page().dataset.job === job) await post("show", {}, true);
  };

  button.addEventListener("click", () => void entries.all().then((all) => { fill(all); list.showModal(); }));
  list.querySelector("[data-again]")?.addEventListener("click", again);
  list.querySelector("[data-save]")?.addEventListener("click", () => void entries.all().then((all) => save(all.filter((e) => e.crew === undefined || e.crew === crew()))));
  document.addEventListener("velvet:choose", () => void show().then((all) => { fill(all); if (!list.open) list.showModal(); }));
  listen(() => void show());
  window.addEventListener("online", again);
  setInterval(() => void entries.all().then((all) => all.some((e) => !e.wrong) && again()), every);
  void show().then((all) => all.some((e) => !e.wrong) && again());
  return show;
}

/** Marks the fields and things of this page of which a change waits. */
function marks(all: Entry[]) {
  const root = document.getElementById("page");
  root?.querySelectorAll(".waits-here").forEach((el) => el.classList.remove("waits-here"));
  for (const e of all) {
    if (e.job !== root?.dataset.job) continue;
    for (const key of Object.keys((e.body.fields as object) ?? {})) document.getElementById(`f-${String(e.body.name)}-${key}`.replace(/[/.]/g, "-"))?.classList.add("waits-here");
  }
}

/** Saves what waits as a file that a person can read and the office can enter. */
function save(all: Entry[]) {
  const text = JSON.stringify(all.map(({ photo, ...e }) => ({ ...e, photo: photo && { name: photo.name, about: photo.about, caption: photo.caption } })), null, 2);
  const a = document.createElement("a");
  a.href = URL.createObjectURL(new Blob([text], { type: "application/json" }));
  a.download = "waiting-edits.json";
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 1000);
}
