// A task is moved by its block: along its row to another hour, onto another day's row, or onto
// somebody else's. While it moves the plan's checks are asked, and say what it would break.
import { send, uuid } from "./send";

type Drag = { block: SVGRectElement; task: string; people: string[]; own: string; grab: number; x: number; y: number; began: boolean; at?: Goal; breaks: string; let: boolean };
type Goal = { day: string; time: string; who: string };

const least = 4; // pixels: less is a touch
const step = 15; // minutes

/** The fields of the form that moves a task. */
function fields(d: Drag, to: Goal): Record<string, string> {
  const others = d.people.filter((name) => name !== d.own && name !== to.who);
  return { day: to.day, time: to.time, who_1: to.who, who_2: d.people.length > 1 ? (others[0] ?? "") : "" };
}

/** Where a block is put by a pointer: the row below it, and the quarter of an hour. */
function goal(d: Drag, e: PointerEvent): Goal | undefined {
  const row = document.elementsFromPoint(e.clientX, e.clientY).find((el): el is SVGSVGElement => el.matches(".day-line[data-day]"));
  if (!row) return undefined;
  const box = row.getBoundingClientRect();
  const [from, to] = [Number(row.dataset.from), Number(row.dataset.to)];
  const hour = from + ((e.clientX - box.left) / box.width) * (to - from) - d.grab;
  const minutes = Math.min(24 * 60 - step, Math.max(0, Math.round((hour * 60) / step) * step));
  const two = (n: number) => String(n).padStart(2, "0");
  return { day: row.dataset.day!, time: `${two(Math.floor(minutes / 60))}:${two(minutes % 60)}`, who: row.dataset.person! };
}

export function moving(root: HTMLElement) {
  let drag: Drag | undefined;
  let tag: HTMLElement | undefined;
  let asking = false;
  let wanted: Goal | undefined;

  /** A move that is let be breaks nothing: what was said before it stands there again. */
  const back = (d: Drag) => {
    d.let = true;
    const breaks = document.getElementById("breaks");
    if (d.began && breaks) breaks.innerHTML = d.breaks;
  };

  const ask = async (d: Drag, to: Goal) => {
    wanted = to;
    if (asking) return;
    asking = true;
    while (wanted && drag === d) {
      const now = wanted;
      wanted = undefined;
      await send("fields", { id: uuid(), new_id: uuid(), name: `slot/${d.task}`, fields: fields(d, now), try: true, parts: ["breaks"] }, true);
      if (d.let) back(d);
      await new Promise((done) => setTimeout(done, 60));
    }
    asking = false;
  };

  const done = () => {
    tag?.remove();
    drag?.block.classList.remove("moving");
    [drag, tag, wanted] = [undefined, undefined, undefined];
  };

  root.addEventListener("pointerdown", (e) => {
    const block = (e.target as Element).closest<SVGRectElement>(".block[data-task]");
    const row = block?.closest<SVGSVGElement>(".day-line[data-day]");
    if (!block || !row || e.button !== 0) return;
    e.preventDefault();
    const hours = ((e.clientX - block.getBoundingClientRect().left) / row.getBoundingClientRect().width) * (Number(row.dataset.to) - Number(row.dataset.from));
    drag = { block, task: block.dataset.task!, people: block.dataset.people!.split("|"), own: row.dataset.person!, grab: hours, x: e.clientX, y: e.clientY, began: false, breaks: document.getElementById("breaks")?.innerHTML ?? "", let: false };
  });
  document.addEventListener("pointermove", (e) => {
    if (!drag) return;
    if (!drag.began && Math.hypot(e.clientX - drag.x, e.clientY - drag.y) < least) return;
    if (!drag.began) {
      drag.began = true;
      drag.block.classList.add("moving");
      tag = document.body.appendChild(Object.assign(document.createElement("p"), { className: "drag-tag" }));
    }
    const to = goal(drag, e);
    tag!.style.left = `${Math.min(e.clientX + 12, innerWidth - 240)}px`;
    tag!.style.top = `${e.clientY + 14}px`;
    tag!.textContent = `${drag.block.dataset.title}: ${to ? `${to.time}, ${to.who}` : "nowhere"}`;
    if (to && (to.day !== drag.at?.day || to.time !== drag.at.time || to.who !== drag.at.who)) void ask(drag, to);
    drag.at = to;
  });
  document.addEventListener("pointerup", () => {
    const d = drag;
    if (!d) return;
    done();
    if (!d.began) return void send("show", { select: d.task }).then(() => document.querySelector("li.current")?.scrollIntoView({ block: "center" }));
    if (d.at) void send("fields", { id: uuid(), new_id: uuid(), name: `slot/${d.task}`, fields: fields(d, d.at), select: d.task });
    else back(d);
  });
  document.addEventListener("keydown", (e) => {
    if (e.key !== "Escape" || !drag) return;
    e.stopPropagation(); // what is chosen stays chosen
    back(drag);
    done();
  }, true);
  document.addEventListener("pointercancel", done);
}
