// What a field held before it was changed, so that a refused change does not stay on the screen as if it held.
type Field = HTMLInputElement | HTMLSelectElement;

const held = new WeakMap<Field, string>();
let changed: Field | null = null;

const field = (e: Event): Field | null => {
  const el = e.target;
  const kept =
    el instanceof HTMLSelectElement || (el instanceof HTMLInputElement && !["checkbox", "radio", "range", "file"].includes(el.type));
  return kept && !el.closest("[role=dialog]") ? (el as Field) : null;
};

addEventListener(
  "focusin",
  (e) => {
    const el = field(e);
    if (el && el !== changed) held.set(el, el.value); // a dialog gives the focus back to a field that is not settled yet
  },
  true,
);
addEventListener("change", (e) => (changed = field(e) ?? changed), true);
addEventListener("input", (e) => field(e)?.setCustomValidity(""), true);

/** The change was taken: the field holds what it shows. */
export function settled() {
  if (changed) held.set(changed, changed.value);
  changed = null;
}

/** The change was refused: the field shows what holds, with the reason beside it. */
export function putBack(why: string) {
  const el = changed;
  changed = null;
  if (!el?.isConnected) return;
  const before = held.get(el);
  if (before === undefined || before === el.value) return;
  el.value = before;
  el.dispatchEvent(new Event("input", { bubbles: true })); // for what is bound to it
  el.setCustomValidity(why);
  el.reportValidity();
  setTimeout(() => el.setCustomValidity(""), 6000);
}

const number = (text: string) => Number(text.trim() === "" ? NaN : text.replace(",", "."));

/** Whether a number above 0 was typed; where not, the field is put back and says so. */
export function above0(text: string): boolean {
  if (number(text) > 0) return true;
  putBack(`A number above 0 is wanted here, not "${text}".`);
  return false;
}

/** The same where 0 is allowed. */
export function notBelow0(text: string): boolean {
  if (number(text) >= 0) return true;
  putBack(`A number of 0 or more is wanted here, not "${text}".`);
  return false;
}
