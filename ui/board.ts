// The roof plan in the hand: panels and entries are dragged and nudged, the
// plan is zoomed and moved. While something moves, the server is asked what it
// would be; the answer's distances and findings are shown as they come.
import { page, send, uuid, type Answer } from "./send";

type Hold = { kind: "panel" | "entry"; id: string; mark: SVGGElement; x: number; y: number; startX: number; startY: number; moved: boolean };
type Glide = { x: number; y: number; box: number[] };

const step = () => (page().dataset.units === "imperial" ? 25.4 / 16 : 1);
const round = (mm: number) => Math.round(mm / step()) * step();
const clean = (mm: number) => Math.round(mm * 1e4) / 1e4;

const plan = () => document.getElementById("plan") as unknown as SVGSVGElement | null;

/** How many millimetres of rig one pixel on the screen is. */
function perPixel(svg: SVGSVGElement): number {
  const box = svg.viewBox.baseVal;
  return box.width / svg.getBoundingClientRect().width / Number(svg.dataset.scale);
}

function markOf(target: EventTarget | null): { kind: "panel" | "entry"; mark: SVGGElement; id: string } | undefined {
  const mark = (target as Element).closest<SVGGElement>("#plan .panel-mark[role], #plan .entry-mark[role]");
  if (!mark) return undefined;
  const kind = mark.dataset.panel ? "panel" : "entry";
  return { kind, mark, id: mark.dataset.panel ?? mark.dataset.entry ?? "" };
}

/** What a moved thing's edit is. */
function move(kind: string, id: string, x: number, y: number) {
  return { id: uuid(), says: `move the ${kind}`, select: id, changes: [{ do: `change_${kind}`, id, fields: { x_mm: clean(x), y_mm: clean(y) } }] };
}

/** Draws a mark away from where the server drew it. */
function shift(mark: SVGGElement, x: number, y: number) {
  const svg = plan();
  if (!svg) return;
  const scale = Number(svg.dataset.scale);
  mark.setAttribute("transform", `translate(${(x - Number(mark.dataset.x)) * scale},${(y - Number(mark.dataset.y)) * scale})`);
}

export function board(root: HTMLElement) {
  let hold: Hold | undefined;
  let asking = false;
  let wanted: ReturnType<typeof move> | undefined;
  let nudge: { kind: string; id: string; x: number; y: number; timer: number } | undefined;

  /** Asks what the held thing would be where it is now: one question at a time, the newest place last. */
  const ask = async (kind: string, id: string, x: number, y: number) => {
    wanted = move(kind, id, x, y);
    if (asking) return;
    asking = true;
    while (wanted) {
      const question = wanted;
      wanted = undefined;
      const answer = (await send("edit", { ...question, try: true, parts: ["live", "findings"] }, true)) as Answer | undefined;
      const layer = document.getElementById("plan-live");
      if (answer?.parts.live && layer && (hold || nudge)) layer.outerHTML = answer.parts.live;
    }
    asking = false;
  };

  root.addEventListener("pointerdown", (e) => {
    const m = markOf(e.target);
    const stop = page().dataset.stop;
    if (!m || e.button !== 0 || (stop === "strings")) return;
    m.mark.focus();
    hold = { ...m, x: Number(m.mark.dataset.x), y: Number(m.mark.dataset.y), startX: e.clientX, startY: e.clientY, moved: false };
    e.preventDefault();
  });
  root.addEventListener("pointermove", (e) => {
    const svg = plan();
    if (!hold || !svg) return;
    const mm = perPixel(svg);
    const dx = (e.clientX - hold.startX) * mm;
    const dy = (e.clientY - hold.startY) * mm;
    if (!hold.moved && Math.hypot(e.clientX - hold.startX, e.clientY - hold.startY) < 3) return;
    hold.moved = true;
    const x = round(hold.x + dx);
    const y = round(hold.y + dy);
    shift(hold.mark, x, y);
    void ask(hold.kind, hold.id, x, y);
  });
  window.addEventListener("pointerup", (e) => {
    const svg = plan();
    if (!hold || !svg) return;
    const h = hold;
    hold = wanted = undefined;
    if (!h.moved) return void send("show", { select: h.id });
    const mm = perPixel(svg);
    const to = move(h.kind, h.id, round(h.x + (e.clientX - h.startX) * mm), round(h.y + (e.clientY - h.startY) * mm));
    void send("edit", to).then((answer) => answer ?? h.mark.removeAttribute("transform"));
  });
  window.addEventListener("pointercancel", () => {
    hold?.mark.removeAttribute("transform");
    hold = undefined;
  });

  // Pointing at panels at the Strings stop puts them at the active string's end.
  root.addEventListener("click", (e) => {
    const m = markOf(e.target);
    if (m?.kind === "panel" && page().dataset.stop === "strings") chain(m.id);
  });
  const chain = (id: string) => root.querySelector<HTMLElement>(`[data-chain="${CSS.escape(id)}"] [data-act]`)?.click();

  root.addEventListener("keydown", (e) => {
    const m = markOf(e.target);
    if (!m) return;
    if (e.key === "Enter" || e.key === " ") {
      e.preventDefault();
      if (page().dataset.stop === "strings") chain(m.id);
      else void send("show", { select: m.id });
    }
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
    if (!way || page().dataset.stop === "strings") return;
    e.preventDefault();
    e.stopPropagation();
    const by = page().dataset.units === "imperial" ? (e.shiftKey ? 25.4 / 16 : 12.7) : e.shiftKey ? 1 : 10;
    if (nudge?.id !== m.id) nudge = { kind: m.kind, id: m.id, x: Number(m.mark.dataset.x), y: Number(m.mark.dataset.y), timer: 0 };
    const n = nudge!;
    n.x += way[0] * by;
    n.y += way[1] * by;
    shift(m.mark, n.x, n.y);
    void ask(n.kind, n.id, n.x, n.y);
    clearTimeout(n.timer);
    n.timer = window.setTimeout(() => {
      nudge = wanted = undefined;
      void send("edit", move(n.kind, n.id, n.x, n.y)).then(() => document.querySelector<SVGGElement>(`#plan [data-${n.kind}="${CSS.escape(n.id)}"]`)?.focus());
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
