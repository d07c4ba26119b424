// The pages' behaviour. The server renders every page and every answer; what
// is here sends edits, puts the answered page in place of the old one, and
// lets panels be moved by pointer and keys. No rule of the trade is in it.
import Alpine from "@alpinejs/csp";

import { along, asked, forget, refresh } from "./along";
import { board } from "./board";
import { combine } from "./combine";
import * as drafts from "./drafts";
import { layouts } from "./layouts";
import { lists } from "./lists";
import { live } from "./live";
import { moving } from "./moving";
import { pad } from "./pad";
import { smaller } from "./photo";
import { placing } from "./placing";
import { planning } from "./planning";
import { act, acting, narrow, page, person, picture, send, toast, typing, uuid } from "./send";
import { waiting } from "./waiting";
import { reads } from "./reads";

type JobPage = {
  timer: number;
  click(e: Event): void;
  changed(e: Event): void;
  typing(e: Event): void;
  submit(e: Event): void;
  key(e: KeyboardEvent): void;
};

/** What a field says: a distance from the far side says so. */
const said = (el: HTMLInputElement) => (el.dataset.from && !/^[a-z]{4}/i.test(el.value.trim()) ? `${el.dataset.from} ${el.value}` : el.value);

/** Reads a code from a chosen photo into a field; the reader is loaded when it is first asked for. */
async function codeFrom(chosen: HTMLInputElement) {
  const file = chosen.files?.[0];
  const into = document.getElementById(chosen.dataset.codeInto!) as HTMLInputElement | null;
  chosen.value = ""; // the same photo may be chosen again
  if (!file || !into) return;
  const reader = window as unknown as { readCode?: (photo: Blob) => Promise<string | undefined> };
  try {
    if (!reader.readCode)
      await new Promise((done, fail) => document.head.append(Object.assign(document.createElement("script"), { src: chosen.dataset.codes!, onload: done, onerror: fail })));
    const text = await reader.readCode!(file);
    if (text === undefined) return toast("No code is found in that photo. Take it closer, straight and without glare, or type the number.");
    into.value = text;
    into.dispatchEvent(new Event("input", { bubbles: true }));
    into.focus();
  } catch {
    toast("That is no photo that this browser can read. Take one as JPEG or PNG, or type the number.");
  }
}

/** A component on a form. */
type Rooted = { $root: HTMLFormElement; show(): void };
type Sky = { $root: HTMLFormElement; asking: boolean; again: boolean; draw(): Promise<void> };

// A form of a page beside the jobs: what is typed into it stays on this device until it was taken.
Alpine.data("kept", () => ({
  init(this: Rooted) {
    const form = this.$root;
    const of = form.dataset.kept!;
    void (form.dataset.sent ? drafts.clear(of, person()) : Promise.resolve()).then(() => drafts.open(of, person()));
    form.addEventListener("input", (e) => drafts.typed(e.target, 0));
  },
}));

Alpine.data("job", () => ({
  timer: 0,
  init(this: JobPage) {
    const root = page();
    board(root);
    pad(root);
    moving(root);
    void drafts.open(root.dataset.job!, person());
    live();
    root.addEventListener("input", (e) => drafts.typed(e.target, Number(root.dataset.revision)));
    new MutationObserver(refresh).observe(root, { attributes: true, attributeFilter: ["data-revision"] });
    root.querySelector(".road .here")?.scrollIntoView({ inline: "center", block: "nearest" });
  },

  /** The checks that are OK are many; they come when somebody opens them. */
  opened(e: Event) {
    const passed = e.target as HTMLDetailsElement;
    if (passed.matches(".passed") && passed.open && !passed.querySelector("ul")) void send("show", { parts: ["findings"] });
  },

  click(e: Event) {
    const el = (e.target as Element).closest<HTMLElement>("[data-act],[data-take],[data-select-id],[data-keys],[data-print],[data-along]");
    if (!el) return;
    if (el.dataset.act) {
      const form = el.closest<HTMLFormElement>("form[data-reason]");
      if (form && !form.reportValidity()) return;
      acting(form);
      const reason = form ? String(new FormData(form).get("reason") ?? "") : "";
      const then = el.dataset.then;
      void act(el.dataset.act, reason).then((answer) => answer && then && (location.href = then));
    } else if (el.dataset.take) {
      const says = (el.title || el.dataset.take).replace(/^undo: /, "Undone: ").replace(/^redo: /, "Done again: ");
      void send(el.dataset.take, { id: uuid() }).then((answer) => {
        if (!answer) return;
        const at = answer.shown;
        toast(`${says}.`, at?.stage && at.stage !== page().dataset.stage ? { href: `/jobs/${page().dataset.job}/${at.stage}`, text: `See it at ${at.name}` } : undefined);
      });
    } else if (el.dataset.selectId !== undefined) {
      const onPlan = el.closest("svg");
      void send("show", { select: el.dataset.selectId }).then(() => onPlan || document.querySelector(".hand")?.scrollIntoView({ block: "nearest" }));
    } else if ("along" in el.dataset) {
      void asked(el as HTMLButtonElement);
    } else if ("print" in el.dataset) {
      window.print();
    } else if ("keys" in el.dataset) {
      (document.getElementById("keys") as HTMLDialogElement).showModal();
    }
  },

  /** A field that is written at once: on change for good, while typing only for the drawing. */
  changed(this: JobPage, e: Event) {
    const el = e.target as HTMLInputElement;
    if (el.dataset.codeInto) return void codeFrom(el);
    if (!el.dataset.auto) return;
    clearTimeout(this.timer);
    typing(el);
    void send("fields", { id: uuid(), name: el.dataset.auto, fields: { [el.name]: said(el) } });
  },
  typing(this: JobPage, e: Event) {
    const el = e.target as HTMLInputElement;
    if (!el.dataset.auto || el.tagName === "SELECT" || !document.getElementById("drawing")) return;
    clearTimeout(this.timer);
    this.timer = window.setTimeout(() => {
      void send("fields", { id: uuid(), name: el.dataset.auto, fields: { [el.name]: said(el) }, try: true, parts: ["drawing", "findings"] }, true);
    }, 180);
  },

  submit(e: Event) {
    const form = e.target as HTMLFormElement;
    if (form.dataset.reason !== undefined) return e.preventDefault();
    if (form.dataset.photo !== undefined) {
      e.preventDefault();
      void smaller(form).then((data) => picture(data)).then((done) => done && form.reset());
      return;
    }
    if (!form.dataset.form) return;
    e.preventDefault();
    const fields: Record<string, string> = {};
    for (const el of form.elements as unknown as Iterable<HTMLInputElement>) {
      if (el.name && !el.closest("[data-when][hidden]") && (el.type !== "radio" || el.checked)) fields[el.name] = el.value;
    }
    void send("fields", { id: uuid(), new_id: uuid(), name: form.dataset.form, fields, select: form.dataset.keep ?? "" });
  },

  key(e: KeyboardEvent) {
    const target = e.target as HTMLElement;
    if (target.closest("input,select,textarea,dialog") || e.ctrlKey || e.metaKey || e.altKey) return;
    if (e.key === "?") return (document.getElementById("keys") as HTMLDialogElement).showModal();
    if (e.key === "Escape" && page().dataset.select) return void send("show", { select: "" });
    const name = e.key.length === 1 && e.key.toLowerCase() !== "z" ? e.key.toLowerCase() : e.key === "Backspace" ? "Delete" : e.key;
    const press = () => {
      const button = page().querySelector<HTMLButtonElement>(`[data-key="${CSS.escape(name)}"]`);
      if (!button || button.disabled) return;
      e.preventDefault();
      button.click();
    };
    // A panel that has the focus is the one meant, selected or not.
    const focused = target.closest<SVGGElement>(".panel-mark[role]")?.dataset.panel;
    if (focused && focused !== page().dataset.select && ["r", "d", "l", "f", "Delete"].includes(name) && !(page().dataset.select ?? "").split(",").includes(focused)) void send("show", { select: focused }).then(press);
    else press();
  },
}));

/** What is put on the roof by touching the plan. */
Alpine.data("placing", () => ({
  init() {
    placing((this as unknown as { $el: HTMLElement }).$el);
  },
}));

/** The record's form shows only what the outcome asks for. */
Alpine.data("built", () => ({
  init(this: Rooted) {
    this.show();
  },
  show(this: Rooted) {
    narrow(this.$root as unknown as HTMLFormElement);
  },
}));

/** A signature with a finger: a path in a box of 320 by 120. */
interface Ink {
  $refs: { line: SVGPathElement; ink: HTMLInputElement }; // Alpine's
  down: boolean;
  path: string;
  at(e: PointerEvent): string;
}
Alpine.data("ink", () => ({
  down: false,
  path: "",
  at(this: Ink, e: PointerEvent) {
    const box = (e.currentTarget as Element).getBoundingClientRect();
    const within = (x: number, most: number) => Math.round(Math.min(most, Math.max(0, x)));
    return `${within(((e.clientX - box.left) / box.width) * 320, 320)} ${within(((e.clientY - box.top) / box.height) * 120, 120)}`;
  },
  start(this: Ink, e: PointerEvent) {
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
    this.down = true;
    this.path += `${this.path ? " " : ""}M${this.at(e)}`;
  },
  move(this: Ink, e: PointerEvent) {
    if (!this.down || this.path.length > 19_000) return;
    this.path += ` L${this.at(e)}`;
    this.$refs.line.setAttribute("d", this.path);
    this.$refs.ink.value = this.path;
  },
  end(this: Ink) {
    this.down = false;
  },
  clear(this: Ink, e: Event) {
    if (e.type === "submit") return void setTimeout(() => (this.path = "")); // it has been read by then
    this.path = "";
    this.$refs.line.removeAttribute("d");
    this.$refs.ink.value = "";
  },
}));

/** The wishes for computed layouts. */
Alpine.data("layouts", layouts);

/** The search for panels, controllers and bank together. */
Alpine.data("combine", combine);
Alpine.data("planning", planning);

/** The year in an hourly weather file, and readings in a device's export. */
Alpine.data("weather", reads("weather"));
Alpine.data("log", reads("log"));
Alpine.data("days", reads("days"));
Alpine.data("forecast", reads("forecast"));

/** The sky's sliders: the curves follow while they move, one drawing asked for at a time. */
Alpine.data("sky", () => ({
  asking: false,
  again: false,
  moved(this: Sky, e: Event) {
    const slider = e.target as HTMLInputElement;
    const shown = this.$root.querySelector(`output[for="${slider.id}"]`);
    if (shown) shown.textContent = slider.value;
    void this.draw();
  },
  async draw(this: Sky) {
    this.again = true;
    if (this.asking) return;
    this.asking = true;
    while (this.again) {
      this.again = false;
      const query = new URLSearchParams(new FormData(this.$root) as unknown as Record<string, string>).toString();
      const response = await fetch(`${location.pathname}?${query}`).catch(() => undefined);
      if (!response?.ok) break;
      const made = new DOMParser().parseFromString(await response.text(), "text/html").getElementById("curve-sheet");
      const open = [...document.querySelectorAll("#curve-sheet details")].map((d) => (d as HTMLDetailsElement).open);
      if (made) document.getElementById("curve-sheet")?.replaceWith(document.adoptNode(made));
      document.querySelectorAll("#curve-sheet details").forEach((d, i) => ((d as HTMLDetailsElement).open = open[i] ?? false));
      history.replaceState(null, "", `?${query}`);
    }
    this.asking = false;
  },
}));

/** Day, glare or night: kept for a year on this device. */
Alpine.data("light", () => ({
  set() {
    const pick = (this as unknown as { $refs: { pick: HTMLSelectElement } }).$refs.pick;
    document.documentElement.dataset.light = pick.value;
    document.cookie = `light=${pick.value};path=/;max-age=31536000;samesite=lax`;
  },
}));

/** A new job is booked in the zone of whoever takes the call. */
Alpine.data("zone", () => ({
  init() {
    (this as unknown as { $refs: { zone: HTMLInputElement } }).$refs.zone.value = Intl.DateTimeFormat().resolvedOptions().timeZone;
  },
}));

waiting();
along();
// The menu under one's name closes when one goes on elsewhere.
for (const kind of ["click", "keydown"]) {
  document.addEventListener(kind, (e) => {
    const menu = document.querySelector<HTMLDetailsElement>(".who[open]");
    if (menu && (e instanceof KeyboardEvent ? e.key === "Escape" : !menu.contains(e.target as Node))) menu.open = false;
  });
}
lists();
// A form is sent in the name of whoever its page was made for: another one may have signed in since, in another tab.
document.addEventListener("formdata", (e) => {
  const form = e.target as HTMLFormElement;
  if (form.method === "post" && person() && form.getAttribute("action") !== "/sign-out") e.formData.set("made_by", String(person()));
});
document.querySelectorAll<HTMLFormElement>('form[action="/sign-out"]').forEach((form) =>
  form.addEventListener("submit", (e) => {
    e.preventDefault();
    void forget().finally(() => form.submit());
  }),
);
document.querySelector("body.print [data-print]")?.addEventListener("click", () => window.print());
Alpine.start();
