// What the core's kinds are called on the screen.
import type { Edit, Peak, Settings } from "../../api/client";
import { significant } from "../../look/number";

export type Rule = NonNullable<Settings["time_rules"]>[number];
export type Part = "drop" | "valley" | "tangent" | "exponential" | "fit";

export const partWords: Record<Part, string> = {
  drop: "drop",
  valley: "valley",
  tangent: "tangent",
  exponential: "decay",
  fit: "fit",
};

export const partKeys: Record<Part, string> = { drop: "D", valley: "V", tangent: "G", exponential: "E", fit: "F" };

export const sideWords: Record<string, string> = {
  base: "base",
  drop: "drop",
  valley: "valley",
  skim: "skim",
  fit: "fit",
  limit: "end of run",
  by_hand: "by hand",
  rule: "rule",
};

export const baselineWords: Record<string, string> = {
  chord: "a straight line under its cluster",
  followed: "a straight line on ground whose bend is followed",
  valley: "from valley to valley",
  held: "held level by a time rule",
  one_baseline: "forced straight by a time rule",
  anchors: "through anchors set by hand",
  background: "a modelled background",
  tangent: "a straight tangent on a larger peak",
  exponential: "the decaying tail of a larger peak",
  fit: "fitted together with the shapes",
};

export const ruleWords: Record<string, string> = {
  leave_out: "do not integrate",
  negative: "negative peaks",
  hold: "hold the baseline",
  one_baseline: "one straight baseline",
  straight_ground: "take the ground for straight",
  sum: "sum as one peak",
  split_here: "split here",
  part: "part peaks by",
  change: "change a setting",
};

export const settingWords: Record<string, string> = {
  threshold: "threshold",
  width_min: "width, min",
  least_area: "least area",
  least_height: "least height",
  skim_percent: "skim, %",
};

export const flagWords: Record<string, string> = {
  saturated: "cut off",
  shoulder: "shoulder",
  negative: "negative",
  summed: "summed",
  fit_failed: "no fit",
  straight_skim: "no decay",
};

/** What the uncertainty of an area is made of. */
export const termWords = {
  noise: "from noise",
  baseline: "from where the baseline stands",
  tail: "from what the boundaries cut",
};

/** An edit as a sentence. */
export function describe(e: Edit): string {
  const at = `${e.apex_min.toFixed(2)} min`;
  const to = `${(e.to_min ?? 0).toFixed(3)} min`;
  switch (e.kind) {
    case "remove":
      return `Remove the peak at ${at}`;
    case "split":
      return `Split the peak at ${at} at ${to}`;
    case "merge_left":
      return `Merge the peak at ${at} with the one before`;
    case "add":
      return `Add a peak from ${at} to ${to}`;
    case "part":
      return `Part the peak at ${at} by ${partWords[e.how as Part]}`;
    case "anchor":
      return `Anchor the baseline at ${at}${e.level === undefined || e.level === null ? "" : `, ${significant(e.level, 3)}`}`;
  }
  return `Move the ${e.kind === "move_start" ? "start" : "end"} of ${at} to ${to}`;
}

export const refusals: Record<string, string> = {
  move_start: "A boundary cannot pass an apex, its own or its neighbour's.",
  move_end: "A boundary cannot pass an apex, its own or its neighbour's.",
  split: "A peak can be split only between its boundaries.",
  merge_left: "There is no peak that touches it on the left.",
  add: "There is a peak in this stretch already, or nothing in it rises above a baseline.",
  part: "It touches no other peak.",
  anchor: "No peak stands over this place.",
};

/** The measures of a peak beside those of the table, with their units. */
export const measures: [key: keyof Peak & string, word: string, unit: string, digits: number][] = [
  ["height_percent", "Height share", "%", 3],
  ["width_10_min", "Width at 10 %", "min", 4],
  ["width_5_min", "Width at 5 %", "min", 4],
  ["tangent_width_min", "Width by tangents", "min", 4],
  ["asymmetry", "Asymmetry at 10 %", "", 3],
  ["plates_tangent", "Plates by tangents", "", 4],
  ["retention_factor", "Retention factor", "", 4],
  ["selectivity", "Selectivity to the previous", "", 4],
  ["peak_to_valley", "Peak to valley", "", 3],
  ["centroid_min", "Centroid", "min", 5],
  ["variance_min2", "Variance", "min²", 3],
  ["skew", "Skew", "", 3],
  ["signal_to_noise_rms", "Height over noise SD", "", 3],
  ["retention_index", "Retention index", "", 5],
  ["relative_retention", "Relative retention", "", 4],
];
