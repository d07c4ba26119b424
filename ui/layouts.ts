// The layouts page: has one layout after the other worked out and shows each as
// it comes. Stop leaves what is there; a card can be looked into further.
import { page } from "./send";

type Card = { card: string };
type Refused = { error: { says: string; fields?: Record<string, string> } };

export function layouts(form: HTMLFormElement) {
  const goals = JSON.parse(form.dataset.goals ?? "[]") as string[];
  const cards = document.getElementById("layout-cards") as HTMLElement;
  const status = form.querySelector<HTMLElement>("[role=status]")!;
  const halt = form.querySelector<HTMLButtonElement>("[data-halt]")!;
  const work = form.querySelector<HTMLButtonElement>("[data-work]")!;
  const wrong = form.querySelector<HTMLElement>(".wrong")!;
  let running: AbortController | undefined;

  const fields = () => {
    const out: Record<string, string> = {};
    new FormData(form).forEach((value, key) => (out[key] = String(value)));
    return out;
  };

  /** Has one layout worked out; false when the wish was refused. */
  const one = async (goal: string, effort: number, signal: AbortSignal): Promise<boolean> => {
    const response = await fetch(`/api/jobs/${page().dataset.job}/layouts`, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ goal, effort, fields: fields() }), signal });
    if (!response.ok) {
      const refused = (await response.json().catch(() => ({ error: { says: "The program could not do that." } }))) as Refused;
      const at = Object.keys(refused.error.fields ?? {})[0];
      if (at || goal === goals[0]) {
        wrong.textContent = refused.error.says;
        wrong.hidden = false;
        const field = at && form.querySelector<HTMLInputElement>(`[name="${CSS.escape(at)}"]`);
        if (field) {
          field.setAttribute("aria-invalid", "true");
          field.focus();
        }
        return false;
      }
      note(goal, refused.error.says);
      return true;
    }
    show(goal, ((await response.json()) as Card).card);
    return true;
  };

  const show = (goal: string, html: string) => {
    const made = document.createElement("template");
    made.innerHTML = html;
    const old = cards.querySelector(`[data-goal="${goal}"]`);
    if (old) old.replaceWith(made.content);
    else cards.append(made.content);
    const seen = new Map<string, string>();
    cards.querySelectorAll<HTMLElement>(".layout-card").forEach((card) => {
      const name = card.querySelector("h2")?.textContent ?? "";
      const first = seen.get(card.dataset.print ?? "");
      const same = card.querySelector<HTMLElement>(".same");
      if (same) {
        same.hidden = first === undefined;
        same.textContent = first === undefined ? "" : `The same layout as “${first}”.`;
      }
      if (first === undefined) seen.set(card.dataset.print ?? "", name);
    });
  };

  /** Tells whether another card has fewer holes for as many watts as the one that has the fewest. */
  const beaten = (): boolean => {
    const figure = (card: HTMLElement, key: string) => Number(card.dataset[key] ?? NaN);
    const fewest = cards.querySelector<HTMLElement>('[data-goal="holes"]');
    if (!fewest?.dataset.holes) return false;
    return [...cards.querySelectorAll<HTMLElement>("[data-holes]")].some((card) => figure(card, "holes") < figure(fewest, "holes") && figure(card, "watts") >= figure(fewest, "watts"));
  };

  const note = (goal: string, says: string) => {
    const card = document.createElement("section");
    card.className = "card layout-card";
    card.dataset.goal = goal;
    const p = document.createElement("p");
    p.className = "empty";
    p.textContent = says;
    card.append(p);
    cards.querySelector(`[data-goal="${goal}"]`)?.remove();
    cards.append(card);
  };

  const run = async (which: string[], effort: number) => {
    running?.abort();
    const mine = (running = new AbortController());
    wrong.hidden = true;
    form.querySelectorAll("[aria-invalid]").forEach((e) => e.removeAttribute("aria-invalid"));
    halt.hidden = false;
    work.disabled = true;
    let done = 0;
    try {
      for (const goal of which) {
        status.textContent = which.length > 1 ? `Working out ${done + 1} of ${which.length} …` : "Looking further …";
        if (!(await one(goal, effort, mine.signal))) break;
        done++;
      }
      // A card that was looked into further may have come to fewer holes than the one for them.
      if (which.length === 1 && beaten()) await one("holes", effort, mine.signal);
      status.textContent = which.length > 1 ? `${done} of ${which.length} worked out` : "";
    } catch {
      status.textContent = mine.signal.aborted ? "Stopped; what was found stands" : "The program does not answer; try again when it does.";
    }
    if (running === mine) {
      halt.hidden = true;
      work.disabled = false;
    }
  };

  form.addEventListener("submit", (e) => {
    e.preventDefault();
    cards.querySelectorAll('.layout-card:not([data-goal="own"])').forEach((card) => card.remove());
    void run(goals, 0);
  });
  halt.addEventListener("click", () => running?.abort());
  cards.addEventListener("click", (e) => {
    const further = (e.target as Element).closest<HTMLElement>("[data-further]");
    if (further) void run([further.dataset.further!], Number(further.dataset.effort));
  });
}
