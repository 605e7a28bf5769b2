// The compound table as a document: what a new compound is, and how an id is made of a name.
import type { Compound, Injected, Peak } from "../../api/client";

/** Where a compound is expected in an injection and how far its window reaches, min. */
export type Place = { expected_min: number; half_min: number };

export function placeOf(c: Compound, injected: Injected | undefined): Place {
  const moved = injected?.places?.[c.id];
  if (moved) return moved;
  return { expected_min: c.expected_min, half_min: c.window.kind === "percent" ? (c.expected_min * c.window.value) / 100 : c.window.value };
}

export function freshId(name: string, taken: Iterable<string>): string {
  const known = new Set(taken);
  const stem =
    name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, "-")
      .replace(/^-|-$/g, "") || "compound";
  let id = stem;
  for (let n = 2; known.has(id); n++) id = `${stem}-${n}`;
  return id;
}

/** A compound at a peak, with a window that reaches half way to the nearest neighbour. */
export function compoundAt(peak: Peak, name: string, all: Peak[], taken: Iterable<string>): Compound {
  const gap = Math.min(...all.filter((p) => p.number !== peak.number).map((p) => Math.abs(p.apex_min - peak.apex_min)), 0.4);
  return {
    id: freshId(name, taken),
    name,
    expected_min: Number(peak.apex_min.toFixed(3)),
    window: { kind: "absolute", value: Number(Math.max(0.02, gap / 2).toFixed(3)) },
    rule: "nearest",
    role: "target",
  };
}
