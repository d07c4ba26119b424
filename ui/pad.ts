// Keys for lengths and numbers on a phone: what a tape shows, within reach of
// a thumb. They appear with a field that takes them, on narrow screens only.
const lengths = {
  imperial: ["7", "8", "9", "'", "4", "5", "6", '"', "1", "2", "3", "space", "0", ".", "1/2", "1/4", "3/4", "1/8", "1/16", "←"],
  metric: ["7", "8", "9", "m", "4", "5", "6", "cm", "1", "2", "3", "mm", "0", ".", "−", "←"],
};
const numbers = ["7", "8", "9", "←", "4", "5", "6", "−", "1", "2", "3", ".", "0"];

export function pad(root: HTMLElement) {
  const box = document.getElementById("pad");
  if (!box) return;
  const narrow = window.matchMedia("(width < 48rem)");
  let field: HTMLInputElement | undefined;

  const hide = () => {
    box.hidden = true;
    document.body.classList.remove("with-pad");
    field?.removeAttribute("inputmode");
    field = undefined;
  };
  root.addEventListener("focusin", (e) => {
    const el = e.target as HTMLInputElement;
    if (!narrow.matches || !el.dataset?.pad) return hide();
    field = el;
    el.setAttribute("inputmode", "none");
    const keys = el.dataset.pad === "number" ? numbers : lengths[root.dataset.units === "metric" ? "metric" : "imperial"];
    box.replaceChildren(...keys.map((k) => key(k)), key("Done"));
    box.classList.toggle("numbers", el.dataset.pad === "number");
    box.hidden = false;
    document.body.classList.add("with-pad");
    el.scrollIntoView({ block: "center" });
  });

  const key = (text: string) => {
    const b = document.createElement("button");
    b.type = "button";
    b.textContent = text;
    if (text === "←") b.setAttribute("aria-label", "take back one sign");
    if (text === "Done") b.className = "primary";
    // The field keeps the focus; else the keys would go with it.
    b.addEventListener("pointerdown", (e) => e.preventDefault());
    b.addEventListener("click", () => press(text));
    return b;
  };
  const press = (text: string) => {
    if (!field) return;
    if (text === "Done") {
      const done = field;
      hide();
      return done.blur();
    }
    const from = field.selectionStart ?? field.value.length;
    const to = field.selectionEnd ?? from;
    if (text === "←") {
      field.setRangeText("", from === to ? Math.max(0, from - 1) : from, to, "end");
    } else {
      const before = field.value.slice(0, from);
      const sign = text === "space" ? " " : text === "−" ? "-" : text;
      field.setRangeText(text.includes("/") && before && !before.endsWith(" ") ? ` ${sign}` : sign, from, to, "end");
    }
    typed = true;
    field.dispatchEvent(new Event("input", { bubbles: true }));
  };
  // Keys pressed here do not make the browser fire change by itself.
  let typed = false;
  root.addEventListener("focusout", (e) => {
    if (typed) (e.target as HTMLElement).dispatchEvent(new Event("change", { bubbles: true }));
    typed = false;
  });
}
