// What is on the shelf, by what it needs.
import type { BenchPost, Study } from "../../api/client";
import { clock } from "../../bench/bench.svelte";

export type Listed = Study["batches"][number] & { study: string };
export type Tab = "open" | "signed" | "away";
export type Need = { rank: number; word: string; kind: "running" | "eyes" | "back" | "review" | "none" };

export const needOf = (b: Listed, running: boolean, wanted: boolean, open: number | undefined): Need =>
  wanted
    ? { rank: -1, word: "wants you", kind: "eyes" }
    : running
      ? { rank: 0, word: "running", kind: "running" }
      : b.signing === "sent back"
        ? { rank: 1, word: "sent back", kind: "back" }
        : b.signing === "waits for review"
          ? { rank: 3, word: "waits for review", kind: "review" }
          : open
            ? { rank: 2, word: "wants eyes", kind: "eyes" }
            : { rank: 4, word: "", kind: "none" };

/** What an instrument does for a batch: a line in words, one below it, and whether it wants somebody. */
export type AtBench = { says: string; then: string; wants: boolean; toCome: number };

const silentS = 10;

/** How the list of a batch stands at its instrument; undefined where there is none, or it has ended. */
export function atBench(post: BenchPost | undefined): AtBench | undefined {
  const state = post?.state;
  if (!post?.list || post.list.ended) return undefined;
  if (!state || (post.silent_s ?? 99) > silentS)
    return { says: `${post.name} does not answer; it goes on by itself`, then: "", wants: true, toCome: 0 };
  const rows = state.rows;
  const toCome = rows.filter((r) => r.state === "waits").length;
  const begun = rows.filter((r) => r.state !== "waits" && r.state !== "not").length;
  const person = state.conditions.find((c) => c.standing === "person");
  const wants = post.needs > 0;
  const left = state.ends_at ? `ends ${clock(state.ends_at)}` : toCome > 0 ? `${toCome} to run` : "";
  const said = (says: string) => ({ says: `${post.name}: ${says}`, then: left, wants, toCome });
  switch (state.phase) {
    case "running":
    case "between":
      return { says: `injection ${begun} of ${rows.length} on ${post.name}`, then: left, wants, toCome };
    case "preparing":
      return said(person ? person.name.replace(/^./, (c) => c.toLowerCase()) : "gets ready");
    case "stopped":
      return said(state.trouble?.says ?? state.says);
    default:
      return said(state.says);
  }
}

export const tabOf = (b: Listed): Tab => (b.away ? "away" : b.signing === "signed" ? "signed" : "open");

/** "just now", "12 min ago", "3 h ago", then the day. */
export function ago(t: string): string {
  const min = (Date.now() - new Date(t).getTime()) / 60_000;
  if (min < 1) return "just now";
  if (min < 60) return `${Math.floor(min)} min ago`;
  if (min < 24 * 60) return `${Math.floor(min / 60)} h ago`;
  return new Date(t).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });
}
