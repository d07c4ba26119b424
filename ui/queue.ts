// Sends what waits, once and in the order in which it was made. Used by pages and by the
// service worker, which goes on when no page is open.
import { entries, type Entry, type Wrong } from "./keep";

export type Answer = { revision: number; parts: Record<string, string>; shown?: { stage: string; name: string }; error?: Wrong };

/** How sending one entry went. */
export type Went =
  | { how: "done"; answer?: Answer }
  | { how: "refused"; status: number; wrong: Wrong }
  | { how: "waits"; signedOut?: boolean; other?: string };

const patience = 15_000; // ms: then it is not known whether the server has it, and it is sent again

/** Sends one entry. */
async function sendOne(e: Entry): Promise<Went> {
  const age = Math.max(0, (Date.now() - Date.parse(e.at)) / 1000);
  let response: Response;
  try {
    if (e.path === "photos") {
      const form = new FormData();
      form.set("file", e.photo!.file, e.photo!.name);
      form.set("about", e.photo!.about);
      form.set("caption", e.photo!.caption);
      form.set("ago_s", String((Date.now() - Date.parse(e.photo!.taken ?? e.at)) / 1000));
      form.set("id", e.id);
      form.set("made_by", String(e.person));
      response = await fetch(`/jobs/${e.job}/photos`, { method: "POST", body: form, signal: AbortSignal.timeout(patience * 4) });
      if (response.redirected) return new URL(response.url).pathname === "/sign-in" ? { how: "waits", signedOut: true } : { how: "done" };
      if (response.status === 403) {
        const other = ((await response.clone().json().catch(() => undefined)) as Answer | undefined)?.error;
        if (other?.other) return { how: "waits", other: other.says };
      }
      const says = /role="alert">([^<]*)/.exec(await response.text())?.[1] ?? "The photo was not taken in.";
      return response.status >= 500 ? { how: "waits" } : { how: "refused", status: response.status, wrong: { says } };
    }
    response = await fetch(`/api/jobs/${e.job}/${e.path}`, { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ ...e.body, person: e.person, age_s: age }), signal: AbortSignal.timeout(patience) });
  } catch {
    return { how: "waits" };
  }
  const answer = (await response.json().catch(() => undefined)) as Answer | undefined;
  if (response.status === 401) return { how: "waits", signedOut: true };
  if (response.ok && answer) return { how: "done", answer };
  if (answer?.error?.other) return { how: "waits", other: answer.error.says };
  if (response.status >= 500 || !answer?.error) return { how: "waits" };
  return { how: "refused", status: response.status, wrong: answer.error };
}

/** Hears how sending an entry went; false of a refused one says that the page has shown why, and that it need not stay in the list. */
export type Told = (e: Entry, went: Went) => boolean | void;
export const told = new Set<Told>();

let running: Promise<void> | undefined;
let again = false;

/** Sends what waits of a person, the oldest first, until all is sent or a job's next one cannot go. */
export function flush(person: number): Promise<void> {
  again = true;
  return (running ??= alone(async () => {
    while (again) {
      again = false;
      const stuck = new Set<string>(); // jobs of which one waits: what follows in them waits behind it
      for (const e of (await entries.all()).filter((x) => x.person === person && !x.wrong)) {
        if (stuck.has(e.job)) continue;
        const went = await sendOne(e);
        const heard = [...told].map((f) => f(e, went));
        if (went.how === "waits") stuck.add(e.job);
        else if (went.how === "done" || heard.includes(false)) await entries.drop(e.seq!);
        else await entries.put({ ...e, wrong: went.wrong });
      }
    }
  }).finally(() => (running = undefined)));
}

/** One tab at a time sends; where the browser has no locks, sending twice does no harm. */
function alone(send: () => Promise<void>): Promise<void> {
  return navigator.locks ? navigator.locks.request("velvet-road-queue", send) : send();
}
