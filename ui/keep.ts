// What this device keeps until the server has it, and what it takes along: in IndexedDB,
// which pages, tabs and the service worker share. Nothing here is undone by an update of
// the program: what waits is the request as it will be sent.
import { openDB, type DBSchema, type IDBPDatabase } from "idb";

export type Wrong = { says: string; fields?: Record<string, string>; clash?: Clash; gone?: boolean; other?: boolean };
export type Clash = { by: string; at: string; does: string; revision: number; signs?: boolean; both: { what: string; was: string; theirs: string; mine: string }[] | null };
export type Body = Record<string, unknown>;

/** An edit that the server has not confirmed. */
export type Entry = {
  seq?: number; // the order in which they were made
  id: string; // the edit's; sent twice, it is made once
  job: string;
  about: string; // the job in words, for the list
  says: string; // what it does, in words
  person: number; // who made it: it is sent in no other name
  crew?: number; // theirs: another crew's people on the same device are not shown it
  path: "edit" | "fields" | "photos";
  body: Body;
  photo?: { file: Blob; name: string; about: string; caption: string; taken?: string }; // taken by this device's clock
  at: string; // by this device's clock
  wrong?: Wrong; // refused: it stays until a person decides
  loose?: "full" | "closed"; // the device could not keep it: it lasts as long as this page
};

/** Text in a field that is not saved yet, or cannot be. */
export type Draft = { key: string; job: string; person?: number; field: string; value: string; base: number; wrong?: string };

/** A job as the server gave it. */
export type Taken = { id: string; number: number; revision: number; at: string; data: unknown; asked: boolean };

interface Kept extends DBSchema {
  entries: { key: number; value: Entry; indexes: { job: string } };
  drafts: { key: string; value: Draft };
  jobs: { key: string; value: Taken };
}

let opened: Promise<IDBPDatabase<Kept>> | undefined;
let store: IDBPDatabase<Kept> | undefined; // the same, once it is open

const db = () =>
  (opened ??= openDB<Kept>("velvet-road", 1, {
    upgrade(made) {
      made.createObjectStore("entries", { keyPath: "seq", autoIncrement: true }).createIndex("job", "job");
      made.createObjectStore("drafts", { keyPath: "key" });
      made.createObjectStore("jobs", { keyPath: "id" });
    },
    blocking() {
      // A newer program in another tab needs the store: this tab opens it again when it next needs it.
      void opened?.then((d) => d.close());
      opened = store = undefined;
    },
    terminated() {
      opened = store = undefined;
    },
  }).then((d) => (store = d)));
void db().catch(() => undefined); // what is done first finds it open; who needs it is told when it cannot be

const changed = typeof BroadcastChannel === "undefined" ? undefined : new BroadcastChannel("velvet-road");
const heard = new Set<() => void>();
changed?.addEventListener("message", () => heard.forEach((f) => f()));

/** Calls back when this tab, another or the worker changed what is kept. */
export const listen = (f: () => void) => heard.add(f);
const tell = () => {
  changed?.postMessage("");
  queueMicrotask(() => heard.forEach((f) => f()));
};

/** Edits that the device's store could not take. */
const loose: Entry[] = [];

export const entries = {
  /**
   * Keeps an edit, and lets go of the unsaved text that is in it. Where the device cannot,
   * this page does, and the entry says so. All of it is asked for before anything is waited
   * for, and committed: the page may be closed in the same moment.
   */
  async add(e: Entry, settles: string[] = []): Promise<Entry> {
    let added: Entry;
    try {
      const tx = (store ?? (await db())).transaction(["entries", "drafts"], "readwrite", { durability: "strict" });
      const asked = [tx.objectStore("entries").add(e), ...settles.map((key) => tx.objectStore("drafts").delete(key)), tx.done];
      tx.commit();
      const [seq] = await Promise.all(asked);
      added = { ...e, seq: seq as number };
    } catch (why) {
      added = { ...e, seq: -1 - loose.length - Date.now(), loose: full(why) ? "full" : "closed" };
      loose.push(added);
    }
    tell();
    return added;
  },
  async all(job?: string): Promise<Entry[]> {
    const kept = await db().then(
      (d) => (job ? d.getAllFromIndex("entries", "job", job) : d.getAll("entries")),
      () => [], // a browser that keeps nothing
    );
    return [...kept, ...loose.filter((e) => !job || e.job === job)];
  },
  async put(e: Entry) {
    const i = loose.findIndex((x) => x.seq === e.seq);
    if (i >= 0) loose[i] = e;
    else await (await db()).put("entries", e);
    tell();
  },
  async drop(seq: number) {
    const i = loose.findIndex((x) => x.seq === seq);
    if (i >= 0) loose.splice(i, 1);
    else await (await db()).delete("entries", seq);
    tell();
  },
};

export const drafts = {
  all: async (job: string, person: number) => (await (await db()).getAll("drafts")).filter((d) => d.job === job && (d.person ?? person) === person),
  put: async (d: Draft) => void (await (await db()).put("drafts", d)),
  drop: async (key: string) => (await db()).delete("drafts", key),
};

export const jobs = {
  get: async (id: string) => (await db()).get("jobs", id),
  all: async () => (await db()).getAll("jobs"),
  put: async (t: Taken) => void (await (await db()).put("jobs", t)),
  drop: async (id: string) => (await db()).delete("jobs", id),
};

/** Whether what is wrong is that the device has no room, as far as the browser says. */
const full = (e: unknown) => e instanceof DOMException && (e.name === "QuotaExceededError" || e.name === "AbortError");
