// Searches panels, controllers and banks together: shows how far it is, may be stopped, and
// arranges what was found.
import { before, lines } from "./lines";
import { page } from "./send";

type Heard = { before?: number; share: number; found?: string; says?: string };

interface Combine {
  $refs: { found: HTMLElement }; // Alpine's
  status: string;
  wrong: string;
  idle: boolean;
  share: number;
  running: AbortController | undefined;
  listen(signal: AbortSignal): Promise<void>;
}

export const combine = () => ({
  status: "",
  wrong: "",
  idle: true,
  share: 0,
  running: undefined as AbortController | undefined, // the search under way

  get fine() {
    return this.wrong === "";
  },
  get busy() {
    return !this.idle;
  },

  async work(this: Combine) {
    this.running?.abort();
    const mine = (this.running = new AbortController());
    this.wrong = "";
    this.idle = false;
    this.share = 0;
    this.status = "Trying …";
    try {
      await this.listen(mine.signal);
    } catch {
      this.status = "";
      if (mine.signal.aborted) this.status = "Stopped";
      else this.wrong = "The search needs the server, and it does not answer. Try again when there is a connection.";
    }
    if (this.running === mine) this.idle = true;
  },

  stop(this: Combine) {
    this.running?.abort();
  },

  /** Reads the search's lines as they come. */
  async listen(this: Combine, signal: AbortSignal) {
    const response = await fetch(`/api/jobs/${page().dataset.job}/combinations`, { method: "POST", signal });
    if (!response.ok || !response.body) throw new Error("no search");
    let last: Heard = { share: 0 };
    await lines<Heard>(response.body, (line) => {
      last = line;
      this.share = last.share;
      this.status = last.before ? before(last.before) : `${Math.round(100 * last.share)} %`;
    });
    this.status = "";
    if (last.found) this.$refs.found.innerHTML = last.found;
    else if (last.says) this.wrong = last.says;
    else throw new Error("the search ended early");
  },

  /** Sorts the table, and shows those that another beats or hides them. */
  arrange(this: Combine) {
    const rows = [...this.$refs.found.querySelectorAll<HTMLTableRowElement>("#combinations tbody tr")];
    const by = this.$refs.found.querySelector<HTMLSelectElement>("#rank")?.value ?? "cost";
    const all = this.$refs.found.querySelector<HTMLInputElement>("#rank-all")?.checked ?? false;
    const sign = by === "worst" ? -1 : 1;
    rows.sort((a, b) => sign * (Number(a.dataset[by]) - Number(b.dataset[by])) || Number(a.dataset.cost) - Number(b.dataset.cost));
    for (const row of rows) {
      row.hidden = !all && row.dataset.beaten !== undefined;
      row.parentElement?.append(row);
    }
  },

  /** A point of a drawing leads to its row. */
  show(this: Combine, e: Event) {
    const to = (e.target as Element).closest("svg a")?.getAttribute("href");
    if (!to) return;
    e.preventDefault();
    const row = this.$refs.found.querySelector<HTMLElement>(to);
    row?.focus();
    row?.scrollIntoView({ block: "center" });
  },
});
