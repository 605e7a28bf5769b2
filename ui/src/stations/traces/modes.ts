// The ways of looking at the signals of a batch, and what is done to traces for looking at them.
import type { Batch } from "../../api/client";
import { place } from "../../state/place.svelte";

export const modes = ["one", "offset", "overlay", "mirror", "above"] as const;
export type Mode = (typeof modes)[number];
export const modeWords: [Mode, string][] = [
  ["one", "one"],
  ["offset", "offset"],
  ["overlay", "overlay"],
  ["mirror", "mirror"],
  ["above", "from above"],
];
export const modeOf = (): Mode => modes.find((m) => m === place.query.mode) ?? "offset";
export const setMode = (mode: Mode) => place.go({ query: { mode } }, false);
export const nextMode = () => setMode(modes[(modes.indexOf(modeOf()) + 1) % modes.length]!);

/** What is done to traces for looking at them; the order of the work is fixed: less, lined up, heights. */
export type Treatment = { less: string; lined: string; reference: string; heights: string };
export const asMeasured: Treatment = { less: "", lined: "", reference: "", heights: "" };

/** The treatment that the address names, as far as the batch has what it names. Traces are lined up on the first of those shown. */
export function treatmentOf(batch: Batch, first: string): Treatment {
  const { less = "", lined = "", heights = "" } = place.query;
  const compound = (id: string) => batch.version.method.compounds.some((c) => c.id === id);
  const t = {
    less: batch.injections.some((i) => i.id === less) ? less : "",
    lined: lined === "correlation" || compound(lined) ? lined : "",
    reference: "",
    heights: heights === "tallest" || heights === "area" || compound(heights) ? heights : "",
  };
  return { ...t, reference: t.lined ? first : "" };
}
export const treated = (t: Treatment) => t.less !== "" || t.lined !== "" || t.heights !== "";
