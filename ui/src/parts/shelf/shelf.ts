// What is on the shelf, by what it needs.
import type { Study } from "../../api/client";

export type Listed = Study["batches"][number] & { study: string };
export type Tab = "open" | "signed" | "away";
export type Need = { rank: number; word: string; kind: "running" | "eyes" | "back" | "review" | "none" };

export const needOf = (b: Listed, running: boolean, open: number | undefined): Need =>
  running
    ? { rank: 0, word: "running", kind: "running" }
    : b.signing === "sent back"
      ? { rank: 1, word: "sent back", kind: "back" }
      : b.signing === "waits for review"
        ? { rank: 3, word: "waits for review", kind: "review" }
        : open
          ? { rank: 2, word: "wants eyes", kind: "eyes" }
          : { rank: 4, word: "", kind: "none" };

export const tabOf = (b: Listed): Tab => (b.away ? "away" : b.signing === "signed" ? "signed" : "open");

/** "just now", "12 min ago", "3 h ago", then the day. */
export function ago(t: string): string {
  const min = (Date.now() - new Date(t).getTime()) / 60_000;
  if (min < 1) return "just now";
  if (min < 60) return `${Math.floor(min)} min ago`;
  if (min < 24 * 60) return `${Math.floor(min / 60)} h ago`;
  return new Date(t).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });
}
