// Takes jobs along on this device, and says what is here.
import { jobs } from "./keep";
import { page, person, toast } from "./send";

const later = 2500; // ms after loading: what the page itself needs comes first

/** Registers the worker, and keeps what the page shows of its job as fresh as the server has it. */
export function along() {
  const sums = document.body.dataset.pocket !== undefined;
  if (!navigator.serviceWorker || (!person() && !sums)) return;
  void navigator.serviceWorker.register("/sw.js", { updateViaCache: "none" }).then(async (registration) => {
    const sync = (registration as unknown as { sync?: { register(tag: string): Promise<void> } }).sync;
    const ready = await navigator.serviceWorker.ready;
    if (sums) setTimeout(() => ready.active?.postMessage({ program: true }), later);
    void sync?.register("send").catch(() => undefined); // not every browser wakes a worker
  }, () => undefined);
  const of = document.querySelector<HTMLElement>("[data-carry]")?.dataset.carry?.split(" ").filter(Boolean) ?? [];
  if (of.length) setTimeout(() => of.forEach((id) => void take(id, false)), later); // a day's jobs go along with it
  const job = document.getElementById("page")?.dataset.job;
  if (!job) return;
  setTimeout(() => void take(job, false), later);
  void jobs.get(job).then((had) => {
    const button = document.querySelector<HTMLButtonElement>("[data-along]");
    if (had?.asked && button) button.textContent = "Taken along";
  });
}

let taking: Promise<string | undefined> | undefined;
let revision = "";

/** Takes a job along; undefined where it could not be. */
export function take(job: string, asked: boolean): Promise<string | undefined> {
  return (taking = (taking ?? Promise.resolve(undefined)).then(async () => {
    const worker = (await navigator.serviceWorker?.ready)?.active;
    if (!worker) return undefined;
    const channel = new MessageChannel();
    const answered = new Promise<{ at?: string; wrong?: string }>((done) => (channel.port1.onmessage = (e) => done(e.data as { at?: string; wrong?: string })));
    worker.postMessage({ take: job, asked }, [channel.port2]);
    const { at } = await answered;
    if (at) revision = page()?.dataset.revision ?? "";
    return at;
  }));
}

/** Takes the job again when the page shows a newer revision than the device has. */
export function refresh() {
  const at = document.getElementById("page")?.dataset;
  if (!at?.job || !at.revision || at.revision === revision || revision === "") return;
  revision = at.revision;
  void take(at.job, false);
}

/** The button that takes the job along: it says when that is done, or why it cannot be. */
export async function asked(button: HTMLButtonElement) {
  const job = page().dataset.job!;
  if (!navigator.serviceWorker) return toast("This browser takes nothing along here: it does so over https, or on the machine of the program itself.");
  button.disabled = true;
  button.textContent = "Taking along …";
  const at = await take(job, true);
  button.disabled = false;
  button.textContent = at ? "Taken along" : "Take along";
  toast(at ? "The whole job is on this device: every stage, marking out, record and photos open without a connection." : "It could not be taken along: the server does not answer, or the device has no room.");
}

/** Lets go of what was taken along before somebody signs out. */
export async function forget() {
  const worker = (await navigator.serviceWorker?.getRegistration())?.active;
  if (worker) {
    // The worker may be taking a job along at this moment.
    const channel = new MessageChannel();
    const answered = new Promise((done) => (channel.port1.onmessage = done));
    worker.postMessage({ forget: true }, [channel.port2]);
    await Promise.race([answered, new Promise((done) => setTimeout(done, 2000))]);
  }
  for (const j of await jobs.all().catch(() => [])) await jobs.drop(j.id);
  await caches?.delete("velvet-photos").catch(() => false);
}
