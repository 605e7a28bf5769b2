// Keys. Single letters act only when no field has the focus.
import type { Key } from "./ideas";

type Handler = (event: KeyboardEvent) => void;

const held: Map<string, Handler>[] = [];

/** Binds keys of the table while a component lives: "j", "Escape", "mod+z", "alt+f", "shift+ArrowLeft". The newest binding wins. */
export function keys(bindings: Partial<Record<Key, Handler>>): () => void {
  const map = new Map(Object.entries(bindings) as [string, Handler][]);
  held.push(map);
  return () => held.splice(held.indexOf(map), 1);
}

function name(e: KeyboardEvent): string {
  const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
  const mod = e.ctrlKey || e.metaKey ? "mod+" : "";
  // Of signs Shift is part of the sign itself, wherever the keyboard has it.
  const shift = e.shiftKey && (e.key.length > 1 || mod || /\p{L}/u.test(e.key)) ? "shift+" : "";
  return `${mod}${e.altKey ? "alt+" : ""}${shift}${key}`;
}

addEventListener("keydown", (e) => {
  const target = e.target as HTMLElement;
  const typing = target.closest("input:not([type=checkbox],[type=radio],[type=range]), textarea, select, [contenteditable]");
  const inDialog = target.closest("[role=dialog]");
  const plain = !(e.ctrlKey || e.metaKey || e.altKey);
  if ((typing || inDialog) && (plain || inDialog)) return;
  if (
    plain &&
    (e.key === "Enter" || e.key === " " || e.key.startsWith("Arrow")) &&
    // Enter means nothing to a slider: there it keeps what the slider has changed.
    target.closest(`button, a, [role=radio], [data-own-keys]${e.key === "Enter" ? "" : ", [role=slider]"}`)
  )
    return;
  if (typing && e.key.toLowerCase() === "z") return; // undo within a field is the field's own
  for (const map of held.toReversed()) {
    const handler = map.get(name(e));
    if (handler) {
      e.preventDefault();
      handler(e);
      return;
    }
  }
});
