// What each block is called, what can be said of it, and what a new one begins with.
import type { LayoutBlock } from "../../../api/client";

export type Option =
  | "text"
  | "sub"
  | "title"
  | "size"
  | "align"
  | "height"
  | "stretch"
  | "plain"
  | "labels"
  | "angle"
  | "conditions"
  | "behind"
  | "channel"
  | "named"
  | "sum"
  | "compounds"
  | "values"
  | "of"
  | "measures"
  | "by"
  | "statistics"
  | "roles"
  | "picture"
  | "missing";

type Kind = { word: string; says: string; options: Option[]; alone?: true; height?: number };

export const kinds: Record<string, Kind> = {
  heading: { word: "Heading", says: "the name of what the page is of", options: ["text", "sub", "size"] },
  sample: { word: "Sample", says: "values beside their names", options: ["title", "values", "missing"] },
  conditions: { word: "Conditions", says: "equipment, or how it was processed", options: ["title", "of"] },
  chromatogram: {
    word: "Chromatogram",
    says: "with areas, labels and conditions",
    options: ["title", "channel", "height", "stretch", "labels", "angle", "named", "conditions", "behind", "plain"],
    height: 66,
  },
  curve: { word: "Curve", says: "calibration, with what was left out", options: ["title", "compounds", "height"], height: 60 },
  peaks: { word: "Peak table", says: "every peak", options: ["title", "channel", "values", "named", "sum", "missing"] },
  results: { word: "Results", says: "what was found", options: ["title", "compounds", "values", "missing"] },
  groups: { word: "Groups", says: "sums of compounds", options: ["title"] },
  summary: { word: "Summary", says: "statistics over injections", options: ["title", "measures", "compounds", "by", "statistics"] },
  checks: { word: "Checks", says: "recoveries and their limits", options: ["title", "compounds"] },
  screening: { word: "Screening", says: "present or not, with the evidence", options: ["title", "compounds"] },
  resolved: { word: "Resolved", says: "the whole batch: compounds against samples", options: ["title"] },
  notices: { word: "Notices", says: "what wants a remark", options: ["title"] },
  record: { word: "Record", says: "what was changed by hand", options: ["title"] },
  text: { word: "Text", says: "words with values", options: ["title", "text", "size", "align", "missing"] },
  picture: { word: "Picture", says: "a PNG", options: ["picture", "height", "align"], height: 40 },
  line: { word: "Line", says: "a line across", options: [] },
  break: { word: "Page break", says: "the next page", options: [], alone: true },
  signatures: { word: "Signatures", says: "lines to sign on", options: ["roles"] },
  head: { word: "Page head", says: "over every page", options: ["text", "sub"], alone: true },
  foot: { word: "Page foot", says: "under every page", options: ["text", "sub"], alone: true },
};

export const begun = (kind: string): Omit<LayoutBlock, "id"> =>
  kind === "text" ? { kind, text: "Words, and values in braces: {subject}." } : { kind };

/** The pages that are made once for each of these. */
export const eachWords: [string, string][] = [
  ["injection", "injection"],
  ["sample", "sample"],
  ["batch", "batch"],
];
