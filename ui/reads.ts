// Sends a file, or pasted rows, to be read by the server, and shows what it says.
import { page } from "./send";

interface Reads {
  $refs: { form: HTMLFormElement; found: HTMLElement }; // Alpine's
  status: string;
  wrong: string;
  idle: boolean;
}

export const reads = (path: string) => () => ({
  status: "",
  wrong: "",
  idle: true,

  get fine() {
    return this.wrong === "";
  },
  get busy() {
    return !this.idle;
  },

  async read(this: Reads) {
    this.wrong = "";
    this.idle = false;
    this.status = "Reading …";
    try {
      const response = await fetch(`/api/jobs/${page().dataset.job}/${path}`, { method: "POST", body: new FormData(this.$refs.form) });
      const answer = (await response.json()) as { found?: string; error?: { says: string } };
      if (answer.found) this.$refs.found.innerHTML = answer.found;
      else this.wrong = answer.error?.says ?? "The program could not read that.";
    } catch {
      this.wrong = "The file is read by the server, and it does not answer. Try again when there is a connection.";
    }
    this.status = "";
    this.idle = true;
  },
});
