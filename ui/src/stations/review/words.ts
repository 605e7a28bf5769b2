// What is said of changes by hand.
import type { ReviewItem } from "../../api/client";
import { significant } from "../../look/number";

export const kinds: Record<ReviewItem["kind"], string> = {
  edit: "edit on a peak",
  point: "point left out",
  level: "level",
  curves: "other curves",
  setting: "setting changed",
  version: "not approved",
  typed: "typed by hand",
  taken: "taken out",
  order: "run order",
  signal: "signal, files",
  notice: "notice settled",
  screened: "screening",
  released: "report made",
};

/** The strokes of a kind in 14 by 10. */
export const strokes: Record<ReviewItem["kind"], string> = {
  edit: "M1 9C4 9 4.6 1 7 1S10 9 13 9M9 1V4",
  point: "M3 1L11 9M11 1L3 9",
  level: "M1 9H13M3 9V6M6 9V3M9 9V5M12 9V1",
  curves: "M1 9C5 8 8 5 13 1M1 5H6",
  setting: "M1 3H13M1 7H13M5 1V5M9 5V9",
  version: "M2 1H9L12 4V9H2ZM9 1V4H12",
  typed: "M2 9L3 6L10 1L12 3L5 8Z",
  taken: "M1 5H13M4 1V9M10 1V9",
  order: "M4 9V1L1 4M10 1V9L13 6",
  signal: "M1 8C3 8 3 2 5 2S7 8 9 8S11 5 13 5",
  notice: "M7 1L13 9H1ZM7 4V6",
  screened: "M1 5L5 9L13 1",
  released: "M3 1H9L11 3V9H3ZM5 5H9",
};

export const groups = [
  { id: "all", word: "all", of: () => true },
  { id: "peaks", word: "on peaks", of: (i: ReviewItem) => i.kind === "edit" },
  { id: "other", word: "other", of: (i: ReviewItem) => i.kind !== "edit" && i.kind !== "notice" },
  { id: "notices", word: "notices", of: (i: ReviewItem) => i.kind === "notice" },
] as const;
export type Group = (typeof groups)[number]["id"];

/** The largest effect in percent, as it is read. */
export function effectOf(i: ReviewItem): string {
  if (!i.reckoned) return "…";
  if (i.problem || !i.effect) return "–";
  if (i.effect.percent === null) return i.effect.before === null ? "comes" : i.effect.after === null ? "goes" : "from 0";
  const p = i.effect.percent;
  return (p > 0 ? "+" : "") + significant(p, Math.abs(p) >= 100 ? 3 : 2);
}

/** The width of its bar, −1 to 1, on the scale of roots, so that small ones show. */
export function barOf(i: ReviewItem): number {
  const p = i.effect ? (i.effect.percent ?? 100) : 0;
  return Math.sign(p) * Math.min(1, Math.sqrt(Math.abs(p) / 50));
}

export const when = (at: string, day = true): string =>
  new Date(at).toLocaleString("en-GB", { ...(day ? { day: "numeric", month: "short" } : {}), hour: "2-digit", minute: "2-digit" });

/** A seal in fours, to be compared by eye. */
export const sealed = (hex: string): string => (hex.slice(0, 16).match(/.{4}/g) ?? []).join(" ");
