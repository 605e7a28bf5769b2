// What trends are of, along what, and which point is picked; kept in this window's memory.
import type { TrendPoint } from "../../api/client";

const memory = "yugen-trends";
type Kept = { quantities: string[]; of: string; along: string; rules: string[] };
const usual: Kept = {
  quantities: ["retention_min", "area_s", "tailing"],
  of: "check",
  along: "batches",
  rules: ["beyond", "side", "steady"],
};
const read = (): Kept => {
  try {
    return { ...usual, ...(JSON.parse(localStorage.getItem(memory) ?? "{}") as Partial<Kept>) };
  } catch {
    return usual;
  }
};

class TrendsShown {
  kept = $state<Kept>(read());
  /** The injection whose points are picked. */
  picked = $state("");
  points = $state.raw<{ words: string; point: TrendPoint }[]>([]);

  set(change: Partial<Kept>) {
    this.kept = { ...this.kept, ...change };
    localStorage.setItem(memory, JSON.stringify(this.kept));
  }
}

export const trends = new TrendsShown();
export const ruleWords: Record<string, string> = {
  beyond: "beyond a limit",
  side: "eight on one side of the centre",
  steady: "six that rise or fall all the way",
};
