// The layouts page: has one layout after the other worked out and shows each as
// it comes. Stop leaves what is there; a card can be looked into further.
import { page } from "./send";

type Card = { card: string };
type Refused = { error: { says: string; fields?: Record<string, string> } };

interface Layouts {
  $refs: { form: HTMLFormElement; cards: HTMLElement }; // Alpine's
  status: string;
  wrong: string;
  idle: boolean;
  running: AbortController | undefined;
  run(goals: string[], effort: number): Promise<void>;
  one(goal: string, effort: number, signal: AbortSignal, first: boolean): Promise<boolean>;
}

export const layouts = () => ({
  status: "",
  wrong: "",
  idle: true,
  running: undefined as AbortController | undefined, // the search under way

  get fine() {
    return this.wrong === "";
  },
  get busy() {
    return !this.idle;
  },

  /** Works out every goal again; the job's own layout stays beside them. */
  async work(this: Layouts) {
    this.$refs.cards.querySelectorAll('.layout-card:not([data-goal="own"])').forEach((card) => card.remove());
    await this.run(JSON.parse(this.$refs.form.dataset.goals ?? "[]") as string[], 0);
  },

  stop(this: Layouts) {
    this.running?.abort();
  },

  async further(this: Layouts, e: Event) {
    const button = (e.target as Element).closest<HTMLElement>("[data-further]");
    if (button) await this.run([button.dataset.further!], Number(button.dataset.effort));
  },

  async run(this: Layouts, goals: string[], effort: number) {
    this.running?.abort();
    const mine = (this.running = new AbortController());
    this.wrong = "";
    this.idle = false;
    this.$refs.form.querySelectorAll("[aria-invalid]").forEach((e) => e.removeAttribute("aria-invalid"));
    let done = 0;
    try {
      for (const goal of goals) {
        this.status = goals.length > 1 ? `Working out ${done + 1} of ${goals.length} …` : "Looking further …";
        if (!(await this.one(goal, effort, mine.signal, goal === goals[0]))) break;
        done++;
      }
      // A card that was looked into further may have come to fewer holes than the one for them.
      if (goals.length === 1 && beaten(this.$refs.cards)) await this.one("holes", effort, mine.signal, false);
      this.status = goals.length > 1 ? `${done} of ${goals.length} worked out` : "";
    } catch {
      this.status = mine.signal.aborted ? "Stopped; what was found stands" : "The program does not answer; try again when it does.";
    }
    if (this.running === mine) this.idle = true;
  },

  /** Has one layout worked out; false when the wish was refused. */
  async one(this: Layouts, goal: string, effort: number, signal: AbortSignal, first: boolean): Promise<boolean> {
    const fields = Object.fromEntries([...new FormData(this.$refs.form)].map(([key, value]) => [key, String(value)]));
    const response = await fetch(`/api/jobs/${page().dataset.job}/layouts`, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ goal, effort, fields }), signal });
    if (response.ok) {
      show(this.$refs.cards, goal, ((await response.json()) as Card).card);
      return true;
    }
    if (response.status === 503 && !signal.aborted && !response.headers.has("X-Made-Here")) {
      // Others search on the same server: it asks again until it is its turn, and has its place in the line meanwhile.
      const wait = (await response.json().catch(() => ({ error: { says: "Other searches are under way." } }))) as Refused;
      this.status = `Waiting: ${wait.error.says}`;
      await new Promise((done) => setTimeout(done, 1000));
      signal.throwIfAborted();
      return this.one(goal, effort, signal, first);
    }
    const refused = (await response.json().catch(() => ({ error: { says: "The program could not do that." } }))) as Refused;
    const at = Object.keys(refused.error.fields ?? {})[0];
    if (!at && !first) {
      note(this.$refs.cards, goal, refused.error.says);
      return true;
    }
    this.wrong = refused.error.says;
    const field = at && this.$refs.form.querySelector<HTMLInputElement>(`[name="${CSS.escape(at)}"]`);
    if (field) {
      field.setAttribute("aria-invalid", "true");
      field.focus();
    }
    return false;
  },
});

/** Puts a card in its goal's place, and says which cards are the same layout. */
function show(cards: HTMLElement, goal: string, html: string) {
  const made = document.createElement("template");
  made.innerHTML = html;
  const old = cards.querySelector(`[data-goal="${goal}"]`);
  if (old) old.replaceWith(made.content);
  else cards.append(made.content);
  const seen = new Map<string, string>();
  cards.querySelectorAll<HTMLElement>(".layout-card").forEach((card) => {
    const first = seen.get(card.dataset.print ?? "");
    const same = card.querySelector<HTMLElement>(".same");
    if (same) {
      same.hidden = first === undefined;
      same.textContent = first === undefined ? "" : `The same layout as “${first}”.`;
    }
    if (first === undefined) seen.set(card.dataset.print ?? "", card.querySelector("h2")?.textContent ?? "");
  });
  mark(cards);
}

/** Marks the best of each figure; what is the same on every card is pale. */
function mark(cards: HTMLElement) {
  const figures = new Map<string, HTMLElement[]>();
  cards.querySelectorAll<HTMLElement>("[data-figure]").forEach((el) => figures.set(el.dataset.figure!, [...(figures.get(el.dataset.figure!) ?? []), el]));
  for (const all of figures.values()) {
    const values = all.map((el) => Number(el.dataset.value));
    const [least, most] = [Math.min(...values), Math.max(...values)];
    all.forEach((el, i) => {
      el.classList.toggle("best", least !== most && values[i] === ("most" in el.dataset ? most : least));
      el.classList.toggle("text-soft", least === most && all.length > 1);
    });
  }
}

/** Says why a goal has no layout. */
function note(cards: HTMLElement, goal: string, says: string) {
  const card = document.createElement("section");
  card.className = "card layout-card";
  card.dataset.goal = goal;
  const p = document.createElement("p");
  p.className = "empty";
  p.textContent = says;
  card.append(p);
  cards.querySelector(`[data-goal="${goal}"]`)?.remove();
  cards.append(card);
}

/** Tells whether another card has fewer holes for as many watts as the one that has the fewest. */
function beaten(cards: HTMLElement): boolean {
  const figure = (card: HTMLElement, key: string) => Number(card.dataset[key] ?? NaN);
  const fewest = cards.querySelector<HTMLElement>('[data-goal="holes"]');
  if (!fewest?.dataset.holes) return false;
  return [...cards.querySelectorAll<HTMLElement>("[data-holes]")].some((card) => figure(card, "holes") < figure(fewest, "holes") && figure(card, "watts") >= figure(fewest, "watts"));
}
