// The service worker: without a connection it answers for the server, from the jobs that
// this device took along and the edits that wait here. The pages and the rules are the
// server's own, as WebAssembly.
/// <reference lib="webworker" />
import { entries, jobs, type Entry, type Taken } from "./keep";
import { flush } from "./queue";

type Result = { status: number; body: string; to?: string };
declare const self: ServiceWorkerGlobalScope & {
  VELVET: { version: string; assets: Record<string, string> };
  Go: new () => { importObject: WebAssembly.Imports; run(i: WebAssembly.Instance): Promise<void> };
  velvetReady(): void;
  velvetPage(text: string): string;
  velvetAnswer(text: string): string;
  velvetBoard(text: string): string;
  velvetDay(text: string): string;
  velvetPocket(text: string): string;
  velvetNothing(text: string): string;
};

const shell = `velvet-${self.VELVET.version}`; // this version's styles, scripts and program
const pictures = "velvet-photos";
const patience = 5000; // ms for a page, when there is another to be had here
const most = 40; // jobs that are kept because they were opened; what was taken along stays

const { assets } = self.VELVET;
const needed = ["style.css", "main.js", "codes.js", "overpass.woff2", "overpass-mono.woff2", "icon.svg"].map((name) => assets[name]).filter(Boolean);

self.addEventListener("install", (e) => {
  e.waitUntil(
    caches.open(shell).then(async (c) => {
      await c.addAll(needed);
      await self.skipWaiting();
    }),
  );
});

// Another version's program goes once this one has its own: until then a page made by it still works.
self.addEventListener("activate", (e) => {
  e.waitUntil(
    (async () => {
      await self.clients.claim();
      const had = (await caches.keys()).filter((k) => k.startsWith("velvet-") && k !== shell && k !== pictures);
      const used = (await Promise.all(had.map(async (k) => (await (await caches.open(k)).keys()).some((r) => r.url.includes("offline.wasm"))))).includes(true);
      if (used) await fetchProgram().catch(() => undefined);
      if ((await caches.match(assets["offline.wasm"])) || !used) await Promise.all(had.map((k) => caches.delete(k)));
    })(),
  );
});

/** Brings the program for this device, when it is not here yet. */
async function fetchProgram() {
  const c = await caches.open(shell);
  if (!(await c.match(assets["offline.wasm"]))) await c.add(assets["offline.wasm"]);
}

let started: Promise<void> | undefined;

/** Starts the program; it stays while the worker does. */
function program(): Promise<void> {
  return (started ??= (async () => {
    const response = await caches.match(assets["offline.wasm"]);
    if (!response) throw new Error("the program for this device is not here");
    const go = new self.Go();
    const ready = new Promise<void>((done) => (self.velvetReady = () => done()));
    const { instance } = await WebAssembly.instantiateStreaming(response, go.importObject);
    void go.run(instance).finally(() => (started = undefined)); // it ends only by a fault
    await ready;
  })().catch((e) => {
    started = undefined;
    throw e;
  }));
}

const light = async () => (await (self as unknown as { cookieStore?: { get(name: string): Promise<{ value: string } | null> } }).cookieStore?.get("light").catch(() => null))?.value ?? "day";

/** A job as it is here: as it was taken, and what waits of whoever took it. */
async function taken(t: Taken) {
  const who = (t.data as { person: { id: number } }).person.id;
  const waiting = (await entries.all(t.id)).filter((e) => !e.wrong && e.person === who);
  return {
    job: t.data, at: t.at, light: await light(),
    waiting: waiting.map((e) => ({ id: e.id, path: e.path, body: e.path === "photos" ? {} : e.body, at: e.at, photo: e.photo && { about: e.photo.about, caption: e.photo.caption, taken: e.photo.taken } })),
  };
}

const html = (r: Result) => (r.to ? Response.redirect(r.to, r.status) : new Response(r.body, { status: r.status, headers: { "Content-Type": "text/html; charset=utf-8", "X-Made-Here": "yes", "Content-Security-Policy": policy } }));
const json = (status: number, body: string) => new Response(body, { status, headers: { "Content-Type": "application/json", "X-Made-Here": "yes" } });
const policy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:; font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'; worker-src 'self'";

/** The job that an address is of. */
const jobOf = (path: string) => /^\/(?:api\/)?jobs\/([0-9a-f-]{36})(?:\/|$)/.exec(path)?.[1];

self.addEventListener("fetch", (e) => {
  const url = new URL(e.request.url);
  if (url.origin !== self.location.origin) return;
  const job = jobOf(url.pathname);
  if (e.request.method === "GET" && url.pathname.startsWith("/assets/")) return e.respondWith(fromShell(e.request));
  if (e.request.method === "GET" && job && /\/photos\/[0-9a-f-]{36}$/.test(url.pathname)) return e.respondWith(picture(e.request, job));
  if (e.request.mode === "navigate" && e.request.method === "GET") return e.respondWith(navigate(e, url, job));
  if (e.request.mode === "navigate") return e.respondWith(fetch(e.request).catch(() => new Response(unsent, { status: 503, headers: { "Content-Type": "text/html; charset=utf-8" } })));
  if (e.request.method === "POST" && job && url.pathname.startsWith("/api/")) {
    const path = url.pathname.split("/").pop()!;
    if (e.request.headers.has("X-Here")) return e.respondWith(answer(e.request, job, path));
    if (path === "show" || path === "undo" || path === "redo" || path === "edit" || path === "fields" || path === "layouts") return e.respondWith(orHere(e.request, job, path));
  }
});

async function fromShell(request: Request): Promise<Response> {
  return (await caches.match(request)) ?? fetch(request);
}

async function picture(request: Request, job: string): Promise<Response> {
  const had = await caches.match(request);
  if (had) return had;
  try {
    const response = await fetch(request);
    if (response.ok) await (await caches.open(pictures)).put(request, response.clone());
    return response;
  } catch {
    const id = new URL(request.url).pathname.split("/").pop();
    for (const w of await entries.all(job)) if (w.photo && (await photoID(w.id)) === id) return new Response(w.photo.file, { headers: { "Content-Type": w.photo.file.type } });
    return new Response("The picture is not on this device.", { status: 503 });
  }
}

/** The ID that a picture gets by the edit's that it waits with: a UUID of version 5 in the OID namespace (RFC 9562). */
async function photoID(edit: string): Promise<string> {
  const space = Uint8Array.from("6ba7b8129dad11d180b400c04fd430c8".match(/../g)!, (x) => parseInt(x, 16));
  const text = new TextEncoder().encode(edit);
  const both = new Uint8Array(space.length + text.length);
  both.set(space);
  both.set(text, space.length);
  const sum = new Uint8Array(await crypto.subtle.digest("SHA-1", both)).slice(0, 16);
  sum[6] = (sum[6] & 0x0f) | 0x50;
  sum[8] = (sum[8] & 0x3f) | 0x80;
  const hex = [...sum].map((b) => b.toString(16).padStart(2, "0")).join("");
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join("-");
}

/** A page: the server's, or the one that can be made here when it does not answer. */
async function navigate(e: FetchEvent, url: URL, job?: string): Promise<Response> {
  const had = job ? await jobs.get(job) : undefined;
  const limit = had || ["/", "/day", "/pocket"].includes(url.pathname) ? AbortSignal.timeout(patience) : undefined;
  try {
    const response = await fetch(e.request, { signal: limit });
    if (![502, 503, 504].includes(response.status)) return response;
    return (await made(url, job, had)) ?? response;
  } catch {
    const here = await made(url, job, had).catch(() => undefined);
    return here ?? new Response(plain, { status: 503, headers: { "Content-Type": "text/html; charset=utf-8" } });
  }
}

const plain = "<!doctype html><html lang=en><meta name=viewport content='width=device-width'><title>No connection</title><h1>No connection</h1><p>The server does not answer, and this page is not on this device. What you typed waits here and is sent when it answers.</p><p><a href='/'>To the jobs on this device</a></p></html>";

const unsent = "<!doctype html><html lang=en><meta name=viewport content='width=device-width'><title>No connection</title><h1>No connection</h1><p>The server does not answer, so nothing was sent. Go back: what you typed is still in the form. Send it again when there is a connection.</p></html>";

/** A page made here; undefined where it cannot be. */
async function made(url: URL, job?: string, had?: Taken): Promise<Response | undefined> {
  if (url.pathname === "/") {
    await program();
    return html(JSON.parse(self.velvetBoard(JSON.stringify({ all: await Promise.all((await jobs.all()).map(taken)), light: await light() }))) as Result);
  }
  if (url.pathname === "/day") {
    await program();
    return html(JSON.parse(self.velvetDay(JSON.stringify({ all: await Promise.all((await jobs.all()).map(taken)), query: url.search.slice(1), light: await light() }))) as Result);
  }
  if (url.pathname === "/pocket") {
    await program();
    return html(JSON.parse(self.velvetPocket(JSON.stringify({ query: url.search.slice(1), light: await light() }))) as Result);
  }
  if (!job) {
    await program();
    return html(JSON.parse(self.velvetNothing(JSON.stringify({ light: await light() }))) as Result);
  }
  if (!had) return undefined;
  await program();
  const r = JSON.parse(self.velvetPage(JSON.stringify({ taken: await taken(had), path: url.pathname, query: url.search.slice(1) }))) as Result;
  if (r.to) r.to = new URL(r.to, url).href;
  return html(r);
}

/** The server's answer, or for what keeps nothing the one that can be made here. An edit is sent by the page alone, which knows that it waits. */
async function orHere(request: Request, job: string, path: string): Promise<Response> {
  const copy = request.clone();
  const keeps = path === "edit" || path === "fields";
  try {
    const response = await fetch(request);
    if (![502, 503, 504].includes(response.status)) return response;
    if (path === "layouts") return response;
    return keeps && !(await tries(copy.clone())) ? response : answer(copy, job, path);
  } catch (e) {
    if (path === "layouts") return json(503, JSON.stringify({ error: { says: "The layout search needs the server, and there is no connection. Panels can be placed by hand meanwhile." } }));
    if (keeps && !(await tries(copy.clone()))) throw e;
    return answer(copy, job, path);
  }
}

const tries = async (request: Request) => Boolean(((await request.json()) as { try?: boolean }).try);

/** An answer that is made here. */
async function answer(request: Request, job: string, path: string): Promise<Response> {
  const had = await jobs.get(job);
  if (!had) return json(503, JSON.stringify({ error: { says: "There is no connection, and this job was not taken along on this device. What you did waits here." } }));
  try {
    await program();
  } catch {
    return json(503, JSON.stringify({ error: { says: "There is no connection, and the program for this device was not loaded in time. What you did waits here." } }));
  }
  const r = JSON.parse(self.velvetAnswer(JSON.stringify({ taken: await taken(had), path, body: await request.json() }))) as Result;
  return json(r.status, r.body);
}

let forgot = 0; // how often what was taken along had to go

/** Lets go of what was taken along; what is being taken meanwhile does not stay either. */
async function forget() {
  forgot++;
  for (const j of await jobs.all()) await jobs.drop(j.id);
  await caches.delete(pictures);
}

/** Takes a job along: as the server has it, its pictures, and the program to work on it. */
async function take(id: string, asked: boolean): Promise<string> {
  const began = forgot;
  const response = await fetch(`/api/jobs/${id}/carry`);
  if (!response.ok) throw new Error(`status ${response.status}`);
  const data = (await response.json()) as { revision: number; document: { id: string; number: number; photos?: { id: string }[] } };
  const had = await jobs.get(id);
  if (began !== forgot) throw new Error("whoever asked for it signed out");
  await jobs.put({ id, number: data.document.number, revision: data.revision, at: new Date().toISOString(), data, asked: asked || had?.asked || false });
  await fetchProgram();
  const c = await caches.open(pictures);
  for (const p of data.document.photos ?? []) {
    if (began !== forgot) break;
    const at = `/jobs/${id}/photos/${p.id}`;
    if (!(await c.match(at))) await c.add(at).catch(() => undefined); // a picture that fails leaves the rest usable
  }
  const kept = (await jobs.all()).filter((j) => !j.asked).sort((a, b) => b.at.localeCompare(a.at));
  for (const old of kept.slice(most)) if (!(await entries.all(old.id)).length) await jobs.drop(old.id);
  return new Date().toISOString();
}

self.addEventListener("message", (e) => {
  const m = e.data as { take?: string; asked?: boolean; program?: boolean; forget?: boolean };
  if (m.forget) e.waitUntil(forget().finally(() => e.ports[0]?.postMessage({})));
  if (m.program) e.waitUntil(fetchProgram().catch(() => undefined)); // the sums need no job
  if (m.take) {
    e.waitUntil(
      take(m.take, Boolean(m.asked)).then(
        (at) => e.ports[0]?.postMessage({ at }),
        (why) => e.ports[0]?.postMessage({ wrong: String(why) }),
      ),
    );
  }
});

// The browser may wake the worker when there is a connection again, with no page open.
self.addEventListener("sync" as never, ((e: ExtendableEvent) => {
  e.waitUntil(entries.all().then((all: Entry[]) => Promise.all([...new Set(all.map((x) => x.person))].map((p) => flush(p))).then(() => undefined)));
}) as never);
