// What others do to the job that this page shows, as they do it, and who is where. The
// connection is there while the page is looked at.
import { entries, listen } from "./keep";
import { flush, told } from "./queue";
import { isMine, look, page, person, send, uuid, withWaiting } from "./send";

type News = { revision?: number; edit?: string; by?: string; says?: string; here?: { name: string; stage: string; at: string; mine?: boolean }[]; gone?: boolean };

const settle = 1200; // ms after loading: the page itself comes first
const soon = 400; // ms that news is let to gather
const late = 1500; // ms after which the answer to one's own edit is not waited for any more
const refusedFor = 30_000; // ms until it is asked again to follow
const client = uuid();

/** Follows the job of this page. */
export function live() {
  let source: EventSource | undefined;
  let holding = false; // something is in the hand: the page is not made again under it
  let newest = 0;

  let asking = false;

  /** Shows the newest revision: one question for all that has come meanwhile. */
  const catchUp = async () => {
    if (asking || holding || newest <= Number(page().dataset.revision) || document.querySelector(".away")) return;
    asking = true;
    const answer = await look();
    asking = false;
    setTimeout(() => void catchUp(), answer ? soon : late);
  };
  /** The server's page in place of the one that was made on this device, once it answers again. */
  const again = () => {
    if (document.querySelector(".away")) void send("show", {}, true);
  };
  told.add((_, went) => {
    if (went.how === "done") setTimeout(again, soon);
  });

  /** What another tab of this device does is seen here while it waits; once it is sent, the server tells of it. */
  let asked = 0;
  const beside = async () => {
    const waits = (await entries.all(page().dataset.job)).filter((e) => !e.wrong && !e.loose && e.person === person()).map((e) => e.id);
    const shown = withWaiting();
    if (!holding && (waits.some((id) => !shown.includes(id) && !isMine(id)) || shown.some((id) => !waits.includes(id)))) void send("show", {}, true);
  };
  listen(() => {
    clearTimeout(asked);
    asked = window.setTimeout(() => void beside(), soon);
  });
  window.addEventListener("pointerdown", () => (holding = true));
  for (const end of ["pointerup", "pointercancel"]) {
    window.addEventListener(end, () => {
      holding = false;
      setTimeout(() => void catchUp(), 300);
    });
  }

  const tell = (text: string) => {
    const box = document.getElementById("news");
    if (!box) return;
    box.textContent = text;
    setTimeout(() => box.textContent === text && (box.textContent = ""), 12_000);
  };

  const hear = (news: News) => {
    const root = page();
    if (news.here) {
      const box = document.getElementById("here");
      if (box) box.textContent = news.here.map((h) => `${h.mine ? "You, elsewhere" : h.name}: ${h.at}`).join(", ");
    }
    if (news.gone) {
      return tell(`${news.by ?? "Somebody"} has erased this job.`);
    }
    const { revision, edit, by, says } = news;
    if (!revision || revision <= Number(root.dataset.revision)) return;
    setTimeout(() => {
      newest = Math.max(newest, revision);
      // The answer to one's own edit may come after the news of it.
      if (edit && isMine(edit)) return void setTimeout(() => void catchUp(), late);
      if (by && edit) tell(`${by}: ${says ?? "a change"}`);
      void catchUp();
    }, soon + Math.random() * soon); // not all pages at one moment
  };

  const open = () => {
    if (source || document.hidden) return;
    const at = page().dataset;
    source = new EventSource(`/api/jobs/${at.job}/events?client=${client}&stage=${at.stage}`);
    source.onmessage = (e) => hear(JSON.parse(e.data as string) as News);
    source.onerror = () => {
      if (source?.readyState !== EventSource.CLOSED) return; // it tries again by itself
      source = undefined; // refused: too many follow already, or the server is busy
      setTimeout(open, refusedFor);
    };
    source.onopen = () => void (person() ? flush(person()) : Promise.resolve()).then(again);
  };
  const close = () => {
    source?.close();
    source = undefined;
  };
  document.addEventListener("visibilitychange", () => (document.hidden ? close() : open()));
  window.addEventListener("pagehide", close);
  if (document.readyState === "complete") setTimeout(open, settle);
  else window.addEventListener("load", () => setTimeout(open, settle));
}
