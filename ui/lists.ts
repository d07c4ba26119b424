// Choices that many fields of a page share are once on it; a field gets them when somebody
// turns to it, by pointer or by key.

function fill(e: Event) {
  const select = e.target instanceof Element ? e.target.closest<HTMLSelectElement>("select[data-list]") : null;
  if (!select || select.options.length > 1) return;
  const list = document.getElementById(`list-${select.dataset.list}`);
  if (!(list instanceof HTMLTemplateElement)) return;
  const had = select.options[0];
  select.replaceChildren(list.content.cloneNode(true));
  if (had && !Array.from(select.options).some((o) => o.value === had.value)) select.append(had);
  if (had) select.value = had.value;
}

/** Fills fields with their shared choices from now on. */
export function lists() {
  for (const turn of ["pointerdown", "focusin", "keydown"]) document.addEventListener(turn, fill, true);
}
