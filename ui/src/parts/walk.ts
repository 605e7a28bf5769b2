// F6: the next part of the screen, in the order bar, scroll, picture, table, side.
const parts = [
  "header",
  ".scroll",
  ".main [tabindex='0']:is(svg, [role=slider], canvas)",
  ".main :is([role=grid], .grid-wrap, .roll)",
  ".side, .words",
];
const focusable = "a[href], button:not(:disabled), input:not(:disabled), select, textarea, [tabindex='0']";

export function nextPart(step: number) {
  const there = parts
    .map((p) => [...document.querySelectorAll<HTMLElement>(p)].find((e) => e.checkVisibility()))
    .filter((e): e is HTMLElement => e !== undefined);
  const at = there.findLastIndex((e) => e.contains(document.activeElement));
  for (let k = 1; k <= there.length; k++) {
    const part = there[((((at < 0 && step < 0 ? 0 : at) + step * k) % there.length) + there.length) % there.length]!;
    const target = part.matches(focusable) ? part : part.querySelector<HTMLElement>(focusable);
    target?.focus();
    if (target && document.activeElement === target) return;
  }
}
