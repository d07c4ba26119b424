// Plans the days of all jobs: says each better plan as it is found, and may be stopped with the best so far.
import { before, lines } from "./lines";

type Heard = { before?: number; best?: string; tries?: number; found?: string; says?: string };

interface Planning {
  $refs: { form: HTMLFormElement; found: HTMLElement; tries: HTMLInputElement }; // Alpine's
  status: string;
  wrong: string;
  idle: boolean;
  running: AbortController | undefined;
}

export const planning = () => ({
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

  async work(this: Planning) {
    const mine = (this.running = new AbortController());
    this.$refs.tries.value = "";
    this.$refs.found.replaceChildren();
    [this.status, this.wrong, this.idle] = ["Planning …", "", false];
    let last: Heard = {};
    try {
      const response = await fetch("/days/hear", { method: "POST", body: new URLSearchParams(new FormData(this.$refs.form) as unknown as Record<string, string>), signal: mine.signal });
      if (!response.ok || !response.body) throw new Error("no plan");
      await lines<Heard>(response.body, (line) => {
        last = line;
        if (line.before) this.status = before(line.before);
        if (!line.best) return;
        this.status = line.best;
        this.$refs.tries.value = String(line.tries);
      });
      this.status = "";
      if (last.found) this.$refs.found.innerHTML = last.found;
      else this.wrong = last.says ?? "The program could not plan the days. Try again.";
    } catch {
      if (mine.signal.aborted) {
        this.$refs.tries.value ||= "1";
        return this.$refs.form.submit(); // the best so far is found again by its number of tries
      }
      this.status = "";
      this.wrong = "The days are planned by the server, and it does not answer, or is busy. Try again.";
    }
    this.idle = true;
  },

  stop(this: Planning) {
    this.running?.abort();
  },
});
