// Things on the roof are put where somebody touches the plan: first what it is,
// then where. By keyboard, or chosen a second time, it goes to the middle.
import { act, page } from "./send";

type Placed = { shape?: string; x_mm: number; y_mm: number; length_mm?: number; width_mm?: number };
type Thing = { Changes: { item?: Placed; fields?: Record<string, Placed> }[] };

export function placing(palette: HTMLElement) {
  let chosen: HTMLButtonElement | undefined;
  const choose = (button?: HTMLButtonElement) => {
    chosen?.setAttribute("aria-pressed", "false");
    chosen = button;
    chosen?.setAttribute("aria-pressed", "true");
    document.getElementById("drawing")?.classList.toggle("placing", Boolean(chosen));
  };
  const put = (button: HTMLButtonElement, at?: { x: number; y: number }) => {
    const thing = JSON.parse(button.dataset.place!) as Thing;
    if (at) {
      const change = thing.Changes[0];
      const item = change.item ?? Object.values(change.fields ?? {})[0]; // a thing, or the place of something inside
      if (!item) return;
      const round = item.shape === "round"; // by its centre
      const step = page().dataset.units === "imperial" ? 12.7 : 10; // a finger is no finer
      const near = (mm: number) => Math.max(0, Math.round(mm / step) * step);
      item.x_mm = near(at.x - (round ? 0 : (item.length_mm ?? 0) / 2));
      item.y_mm = near(at.y - (round ? 0 : (item.width_mm ?? 0) / 2));
    }
    choose();
    // The tape is next: its field on the plan, or below it on a phone.
    void act(JSON.stringify(thing)).then((answer) => {
      if (!answer) return;
      const field = ["tape-nose", "hand-0"].map((id) => document.getElementById(id) as HTMLInputElement | null).find((el) => el?.getClientRects().length);
      field?.focus();
      field?.select();
    });
  };

  palette.addEventListener("click", (e) => {
    const button = (e.target as Element).closest<HTMLButtonElement>("[data-place]");
    if (!button) return;
    if (e.detail === 0 || button === chosen || !document.querySelector("#plan[data-scale]")) return put(button);
    choose(button);
  });
  document.addEventListener("keydown", (e) => e.key === "Escape" && choose());
  // Before anything else on the plan hears of it: what is touched there is a place now.
  page().addEventListener("pointerdown", (e) => chosen && (e.target as Element).closest("#plan, #small") && e.stopPropagation(), true);
  page().addEventListener("click", (e) => {
    const svg = (e.target as Element).closest<SVGSVGElement>("#plan, #small");
    if (!svg || !chosen || !chosen.isConnected) return;
    e.stopPropagation();
    const point = new DOMPoint(e.clientX, e.clientY).matrixTransform(svg.getScreenCTM()!.inverse());
    const mm = (at: number, from: string) => (at - Number(svg.dataset[from])) / Number(svg.dataset.scale);
    put(chosen, { x: mm(point.x, "left"), y: mm(point.y, "top") });
  }, true);
}
