// Sends an hourly weather file and shows the year in it.
import { page } from "./send";

interface Weather {
  $refs: { file: HTMLInputElement; found: HTMLElement }; // Alpine's
  status: string;
  wrong: string;
  idle: boolean;
}

export const weather = () => ({
  status: "",
  wrong: "",
  idle: true,

  get fine() {
    return this.wrong === "";
  },
  get busy() {
    return !this.idle;
  },

  async read(this: Weather) {
    const file = this.$refs.file.files?.[0];
    if (!file) return;
    const body = new FormData();
    body.set("file", file);
    this.wrong = "";
    this.idle = false;
    this.status = "Reading …";
    try {
      const response = await fetch(`/api/jobs/${page().dataset.job}/weather`, { method: "POST", body });
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
