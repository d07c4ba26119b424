// The roof plan in the hand, and the equipment board: panels, their feet, entries and
// equipment are dragged and nudged, the plan is zoomed and moved. While something moves, the server is
// asked what it would be; the answer's distances and findings are shown as they
// come.
import { page, send, uuid, type Answer } from "./send";

type Kind = "panel" | "entry" | "foot" | "thing" | "gear" | "bend";
type Mark = { kind: Kind; id: string; mark: SVGGElement };
type Held = Mark & { x: number; y: number };
type Hold = { all: Held[]; mm: number; startX: number; startY: number; moved: boolean };
type Glide = { x: number; y: number; box: number[] };

const finest = () => (page().dataset.units === "imperial" ? 25.4 / 16 : 1);
const snap = (mm: number, fine: boolean) => {
  const step = fine ? finest() : Number(page().dataset.grid) || finest();
  return Math.round(mm / step) * step;
};
const clean = (mm: number) => Math.round(mm * 1e4) / 1e4;
const still = 3; // pixels that a pointer moves along an axis without meaning it

const plan = () => document.getElementById("plan") as unknown as SVGSVGElement | null;
const selected = () => (page().dataset.select ?? "").split(",").filter(Boolean);

/** How many millimetres of rig one pixel on the screen is. */
function perPixel(svg: SVGSVGElement): number {
  const box = svg.viewBox.baseVal;
  return box.width / svg.getBoundingClientRect().width / Number(svg.dataset.scale);
}

function markOf(target: EventTarget | null): Mark | undefined {
  const mark = (target as Element).closest<SVGGElement>("#plan .foot-mark[role], #plan .panel-mark[role], #plan .entry-mark[role], #plan .thing-mark[role], #plan .gear-mark[role], #plan .bend-mark[role]");
  if (!mark) return undefined;
  const kind: Kind = mark.dataset.bend ? "bend" : mark.dataset.foot ? "foot" : mark.dataset.panel ? "panel" : mark.dataset.thing ? "thing" : mark.dataset.gear ? "gear" : "entry";
  return { kind, mark, id: mark.dataset.of ?? mark.dataset.panel ?? mark.dataset.thing ?? mark.dataset.gear ?? mark.dataset.entry ?? "" };
}

/** A foot's place along its panel's side, and the side's direction. */
function footOf(mark: SVGGElement) {
  const feet = (mark.dataset.feet ?? "").split(" ").map(Number);
  return { feet, index: Number(mark.dataset.foot), axis: mark.dataset.axis as "x" | "y" };
}

type Point = Record<string, number | string>;

/** The path of a bend's run with the bend where it is held; a new one makes the path longer. */
function bent(mark: SVGGElement, at: { x: number; y: number }): Point[] {
  const path = JSON.parse(mark.closest<SVGGElement>(".bends")!.dataset.path!) as Point[];
  const [right, down] = mark.dataset.signs!.split(" ").map(Number);
  const point = JSON.parse(mark.dataset.point!) as Point;
  point[`${mark.dataset.right}_mm`] = clean(right * at.x);
  point[`${mark.dataset.down}_mm`] = clean(down * at.y);
  path.splice(Number(mark.dataset.bend), mark.matches(".new") ? 0 : 1, point);
  return path;
}

/** A place of a bend's face that is no farther than its ends. */
function onFace(mark: SVGGElement, at: { x: number; y: number }) {
  const [left, right, top, bottom] = mark.dataset.ends!.split(" ").map(Number);
  return { x: Math.min(right, Math.max(left, at.x)), y: Math.min(bottom, Math.max(top, at.y)) };
}

/** Takes the legs at a bend along by so many pixels of the drawing. */
function bendLegs(mark: SVGGElement, dx: number, dy: number) {
  const index = Number(mark.dataset.bend);
  const here = mark.querySelector(".bend-hold")!;
  const at = ["cx", "cy"].map((key) => Number(here.getAttribute(key)));
  for (const leg of [index, index + 1]) {
    const line = document.querySelector<SVGPolylineElement>(`#plan [data-leg="${leg}"]`);
    if (!line || (leg > index && mark.matches(".new"))) continue;
    line.dataset.points ??= line.getAttribute("points")!;
    const points = line.dataset.points.split(" ").map((p) => p.split(",").map(Number));
    const end = mark.matches(".new") ? 1 : leg === index ? 2 : 0;
    if (Math.hypot(points[end][0] - at[0], points[end][1] - at[1]) > 1) continue; // it goes on on another face
    points[end] = [points[end][0] + dx, points[end][1] + dy];
    if (end !== 1) points[1] = [0, 1].map((k) => (points[0][k] + points[2][k]) / 2);
    line.setAttribute("points", points.map((p) => p.join(",")).join(" "));
  }
}

const held = (m: Mark): Held => {
  if (m.kind !== "foot") return { ...m, x: Number(m.mark.dataset.x), y: Number(m.mark.dataset.y) };
  const { feet, index, axis } = footOf(m.mark);
  return { ...m, x: axis === "x" ? feet[index] : 0, y: axis === "y" ? feet[index] : 0 };
};

const changeOf = { panel: "change_panel", foot: "change_panel", entry: "change_hole", thing: "change_obstruction", gear: "change_equipment", bend: "change_circuit" };

/** What moving things by so much is as an edit. */
function move(all: Held[], to: (h: Held) => { x: number; y: number }) {
  const changes = all.map((h) => {
    const at = to(h);
    if (h.kind === "bend") return { do: changeOf.bend, id: h.id, fields: { path: bent(h.mark, onFace(h.mark, at)) } };
    if (h.kind === "gear") return { do: changeOf.gear, id: h.id, fields: { on_board: { x_mm: clean(at.x), y_mm: clean(at.y), turn_deg: Number(h.mark.dataset.turn) } } };
    if (h.kind !== "foot") return { do: changeOf[h.kind], id: h.id, fields: { ...(at.x !== h.x && { x_mm: clean(at.x) }), ...(at.y !== h.y && { y_mm: clean(at.y) }) } };
    const { feet, index, axis } = footOf(h.mark);
    feet[index] = clean(at[axis]);
    return { do: "change_panel", id: h.id, fields: { feet_at_mm: feet } };
  });
  const one = all[all.length - 1];
  const select = all.length > 1 || one.kind === "foot" ? (page().dataset.select ?? "") : one.id;
  const label = one.mark.closest<SVGGElement>(".bends")?.dataset.label;
  if (label) return { id: uuid(), says: `${label}: bend its path`, select, changes };
  return { id: uuid(), says: all.length > 1 ? `move ${all.length} panels` : `move ${one.kind === "thing" || one.kind === "gear" ? (one.mark.getAttribute("aria-label") ?? "").split(",")[0] : `the ${one.kind}`}`, select, changes };
}

/** Draws a mark away from where the server drew it. */
function shift(h: Held, x: number, y: number) {
  const svg = plan();
  if (!svg) return;
  const scale = Number(svg.dataset.scale);
  if (h.kind === "bend") {
    ({ x, y } = onFace(h.mark, { x, y }));
    bendLegs(h.mark, (x - h.x) * scale, (y - h.y) * scale);
  }
  const axis = h.kind === "foot" ? footOf(h.mark).axis : "";
  h.mark.setAttribute("transform", `translate(${axis === "y" ? 0 : (x - h.x) * scale},${axis === "x" ? 0 : (y - h.y) * scale})`);
}

/** Puts a mark back to where the server drew it. */
function back(h: Held) {
  if (h.kind === "bend") bendLegs(h.mark, 0, 0);
  h.mark.removeAttribute("transform");
}

export function board(root: HTMLElement) {
  let hold: Hold | undefined;
  let asking = false;
  let wanted: ReturnType<typeof move> | undefined;
  let nudge: { one: Held; dx: number; dy: number; timer: number } | undefined;

  /** Asks what the held things would be where they are now: one question at a time, the newest place last. */
  const ask = async (question: ReturnType<typeof move>) => {
    wanted = question;
    if (asking) return;
    asking = true;
    while (wanted) {
      const now = wanted;
      wanted = undefined;
      const answer = (await send("edit", { ...now, try: true, parts: ["live", "to-check"] }, true)) as Answer | undefined;
      const layer = document.getElementById("plan-live");
      if (answer?.parts.live && layer && (hold || nudge)) layer.outerHTML = answer.parts.live;
      await new Promise((done) => setTimeout(done, 60)); // frames for the hand come first
    }
    asking = false;
  };

  /** Where a held thing goes for so many pixels of the pointer. */
  const reached = (h: Held, e: PointerEvent) => {
    const mm = hold!.mm;
    const first = hold!.all[0];
    // Several keep their distances: the first one's place is snapped, and all go by the same way.
    const [right, down] = [e.clientX - hold!.startX, e.clientY - hold!.startY];
    const by = (from: number, pixels: number, across: number) => (Math.abs(pixels) < still && Math.abs(across) >= still ? 0 : snap(from + pixels * mm, e.altKey) - from);
    return { x: h.x + by(first.x, right, down), y: h.y + by(first.y, down, right) };
  };

  root.addEventListener("pointerdown", (e) => {
    const m = markOf(e.target);
    if (!m || e.button !== 0 || page().dataset.stage === "strings") return;
    m.mark.focus();
    const with_ = m.kind === "panel" && selected().includes(m.id) ? selected() : [m.id];
    const all = m.kind === "panel" ? [...root.querySelectorAll<SVGGElement>("#plan .panel-mark[role]")].filter((x) => with_.includes(x.dataset.panel ?? "")).map((mark) => held({ kind: "panel", id: mark.dataset.panel!, mark })) : [held(m)];
    all.sort((a, b) => Number(b.id === m.id) - Number(a.id === m.id)); // the one under the pointer leads
    hold = { all, mm: perPixel(plan()!), startX: e.clientX, startY: e.clientY, moved: false };
    e.preventDefault();
  });
  root.addEventListener("pointermove", (e) => {
    if (!hold) return;
    if (!hold.moved && Math.hypot(e.clientX - hold.startX, e.clientY - hold.startY) < still) return;
    if (hold.all.some((h) => h.mark.dataset.locked)) return;
    hold.moved = true;
    for (const h of hold.all) {
      const at = reached(h, e);
      shift(h, at.x, at.y);
    }
    void ask(move(hold.all, (h) => reached(h, e)));
  });
  window.addEventListener("pointerup", (e) => {
    if (!hold) return;
    const h = hold;
    wanted = undefined;
    if (!h.moved) {
      hold = undefined;
      const one = h.all[0];
      if (one.kind === "foot" || one.kind === "bend" || one.kind === "thing") return; // a thing is selected by the click that follows
      let now = [one.id];
      if (e.shiftKey && one.kind === "panel") now = selected().includes(one.id) ? selected().filter((id) => id !== one.id) : [...selected(), one.id];
      return void send("show", { select: now.join(",") });
    }
    const to = move(h.all, (x) => reached(x, e));
    hold = undefined;
    void send("edit", to).then((answer) => answer ?? h.all.forEach(back));
  });
  window.addEventListener("pointercancel", () => {
    hold?.all.forEach(back);
    hold = undefined;
  });

  // Pointing at panels at the Strings stage puts them at the active string's end.
  root.addEventListener("click", (e) => {
    const m = markOf(e.target);
    if (m?.kind === "panel" && page().dataset.stage === "strings") chain(m.id);
  });
  const chain = (id: string) => root.querySelector<HTMLElement>(`[data-chain="${CSS.escape(id)}"] [data-act]`)?.click();

  root.addEventListener("keydown", (e) => {
    const m = markOf(e.target);
    if (!m) return;
    if ((e.key === "Delete" || e.key === "Backspace") && m.kind === "bend" && !m.mark.matches(".new")) {
      e.preventDefault();
      e.stopPropagation();
      const path = bent(m.mark, { x: 0, y: 0 });
      path.splice(Number(m.mark.dataset.bend), 1);
      return void send("edit", { id: uuid(), says: `${m.mark.closest<SVGGElement>(".bends")!.dataset.label}: leave out a corner`, select: m.id, changes: [{ do: changeOf.bend, id: m.id, fields: { path } }] });
    }
    if ((e.key === "Enter" || e.key === " ") && m.kind !== "foot" && m.kind !== "bend") {
      e.preventDefault();
      if (page().dataset.stage === "strings") chain(m.id);
      else {
        const more = e.shiftKey && m.kind === "panel" ? selected().filter((id) => id !== m.id) : [];
        void send("show", { select: [...more, m.id].join(",") });
      }
    }
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
    if (!way || page().dataset.stage === "strings" || m.mark.dataset.locked) return;
    e.preventDefault();
    e.stopPropagation();
    const by = page().dataset.units === "imperial" ? (e.shiftKey ? 25.4 / 16 : 12.7) : e.shiftKey ? 1 : 10;
    if (nudge?.one.mark !== m.mark) nudge = { one: held(m), dx: 0, dy: 0, timer: 0 };
    const n = nudge!;
    n.dx += way[0] * by;
    n.dy += way[1] * by;
    const together = n.one.kind === "panel" && selected().length > 1 && selected().includes(n.one.id);
    const all = together ? [...root.querySelectorAll<SVGGElement>("#plan .panel-mark[role]")].filter((x) => selected().includes(x.dataset.panel ?? "")).map((mark) => held({ kind: "panel", id: mark.dataset.panel!, mark })) : [n.one];
    const to = (h: Held) => ({ x: h.x + n.dx, y: h.y + n.dy });
    for (const h of all) shift(h, to(h).x, to(h).y);
    void ask(move(all, to));
    clearTimeout(n.timer);
    n.timer = window.setTimeout(() => {
      nudge = wanted = undefined;
      const again = n.one.kind === "bend" ? `#plan [data-bend="${n.one.mark.dataset.bend}"]:not(.new)` : n.one.kind === "foot" ? `#plan [data-foot="${n.one.mark.dataset.foot}"][data-of="${CSS.escape(n.one.id)}"]` : `#plan [data-${n.one.kind}="${CSS.escape(n.one.id)}"]`;
      void send("edit", move(all, to)).then(() => document.querySelector<SVGGElement>(again)?.focus());
    }, 220);
  });

  zoom(root);
}

/** Wheel with Ctrl and the keys + − 0 zoom; a drag on the empty roof moves the view. */
function zoom(root: HTMLElement) {
  let whole: number[] | undefined;
  let glide: Glide | undefined;
  const box = (svg: SVGSVGElement) => (svg.getAttribute("viewBox") ?? "").split(" ").map(Number);
  const set = (svg: SVGSVGElement, b: number[]) => svg.setAttribute("viewBox", b.map((n) => n.toFixed(1)).join(" "));
  const by = (factor: number, cx = 0.5, cy = 0.5) => {
    const svg = plan();
    if (!svg) return;
    const b = box(svg);
    whole ??= b;
    const w = Math.min(whole[2], Math.max(whole[2] / 8, b[2] * factor));
    const h = (w * whole[3]) / whole[2];
    const inside = (at: number, size: number, all: number) => Math.min(Math.max(0, at), all - size);
    set(svg, [inside(b[0] + (b[2] - w) * cx, w, whole[2]), inside(b[1] + (b[3] - h) * cy, h, whole[3]), w, h]);
    if (w < whole[2]) svg.dataset.zoomed = "yes";
    else delete svg.dataset.zoomed;
  };
  root.addEventListener("wheel", (e) => {
    const svg = (e.target as Element).closest<SVGSVGElement>("#plan");
    if (!svg || !e.ctrlKey) return;
    e.preventDefault();
    const r = svg.getBoundingClientRect();
    by(e.deltaY > 0 ? 1.15 : 1 / 1.15, (e.clientX - r.left) / r.width, (e.clientY - r.top) / r.height);
  }, { passive: false });
  root.addEventListener("click", (e) => {
    const way = (e.target as Element).closest<HTMLElement>("[data-zoom]")?.dataset.zoom;
    if (way) by(way === "in" ? 1 / 1.3 : 1.3);
  });
  document.addEventListener("keydown", (e) => {
    if ((e.target as Element).closest("input,select,textarea,dialog")) return;
    if (e.key === "+" || e.key === "=") by(1 / 1.3);
    if (e.key === "-") by(1.3);
    if (e.key === "0") by(100);
  });
  root.addEventListener("pointerdown", (e) => {
    const svg = (e.target as Element).closest<SVGSVGElement>("#plan");
    if (svg && !markOf(e.target) && whole && box(svg)[2] < whole[2]) glide = { x: e.clientX, y: e.clientY, box: box(svg) };
  });
  root.addEventListener("pointermove", (e) => {
    const svg = plan();
    if (!glide || !svg || !whole) return;
    const per = glide.box[2] / svg.getBoundingClientRect().width;
    const inside = (at: number, size: number, all: number) => Math.min(Math.max(0, at), all - size);
    set(svg, [inside(glide.box[0] - (e.clientX - glide.x) * per, glide.box[2], whole[2]), inside(glide.box[1] - (e.clientY - glide.y) * per, glide.box[3], whole[3]), glide.box[2], glide.box[3]]);
  });
  window.addEventListener("pointerup", () => (glide = undefined));
}
