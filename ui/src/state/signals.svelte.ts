// Which signals of an injection stand in the picture: a choice by name and unit, the same for the whole batch and kept in this window's memory.
const memory = "yugen-signals";
type Kept = { hidden: string[]; removed: string[]; drawn: "lanes" | "behind" | "off" };
const read = (): Kept => {
  try {
    return { hidden: [], removed: [], drawn: "lanes", ...(JSON.parse(localStorage.getItem(memory) ?? "{}") as Partial<Kept>) };
  } catch {
    return { hidden: [], removed: [], drawn: "lanes" };
  }
};
let kept = $state<Kept>(read());
const keep = (change: Partial<Kept>) => {
  kept = { ...kept, ...change };
  localStorage.setItem(memory, JSON.stringify(kept));
};
type Named = { name: string; unit: string };
const keyOf = (s: Named) => `${s.name} ${s.unit}`;
const without = (list: string[], key: string) => list.filter((k) => k !== key);

export const signals = {
  get drawn() {
    return kept.drawn;
  },
  set drawn(how: Kept["drawn"]) {
    keep({ drawn: how });
  },
  hidden: (s: Named) => kept.hidden.includes(keyOf(s)) || kept.removed.includes(keyOf(s)),
  removed: (s: Named) => kept.removed.includes(keyOf(s)),
  toggle(s: Named) {
    const key = keyOf(s);
    keep({ hidden: kept.hidden.includes(key) ? without(kept.hidden, key) : [...kept.hidden, key] });
  },
  /** Takes a signal off the list; it stays there struck, to be had back. */
  remove: (s: Named) => keep({ removed: [...without(kept.removed, keyOf(s)), keyOf(s)] }),
  haveBack: (s: Named) => keep({ removed: without(kept.removed, keyOf(s)), hidden: without(kept.hidden, keyOf(s)) }),
};
