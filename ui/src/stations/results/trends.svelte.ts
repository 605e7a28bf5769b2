// What trends are of, along what, and which point is picked; kept in this window's memory.
import { answer, api, Problem, type TrendChart, type TrendPoint } from "../../api/client";
import { queries } from "../../state/ask";
import { who } from "../../state/who.svelte";

const memory = "yugen-trends";
type Kept = { quantities: string[]; of: string; along: string; rules: string[]; style: string };
const usual: Kept = {
  quantities: ["retention_min", "area_s", "tailing"],
  of: "check",
  along: "batches",
  rules: ["beyond", "side", "steady"],
  style: "page",
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
  charts = $state.raw<TrendChart[]>([]);
  /** Whether the figure for print is looked at. */
  figure = $state(false);
  trouble = $state("");

  /** What is asked of the server for a compound. */
  asked(compound: string) {
    return {
      quantities: this.kept.quantities.join(","),
      compound,
      of: this.kept.of,
      along: this.kept.along,
      rules: this.kept.rules.join(","),
    };
  }
  private async change(batch: string, what: () => Promise<unknown>) {
    this.trouble = "";
    try {
      await who.sure();
      await what();
      await queries.invalidateQueries({ queryKey: ["trends", batch] });
      await queries.invalidateQueries({ queryKey: ["record", batch] });
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      this.trouble = error.message;
    }
  }
  mark = (batch: string, injection_id: string, says: string) =>
    this.change(batch, () =>
      answer(api.POST("/api/batches/{batch}/trends/marks", { params: { path: { batch } }, body: { injection_id, says } })),
    );
  unmark = (batch: string, mark: string) =>
    this.change(batch, () => answer(api.DELETE("/api/batches/{batch}/trends/marks/{mark}", { params: { path: { batch, mark } } })));
  /** Sets limits of a quantity by hand; without any they are those of the method, or computed ones. */
  limit = (batch: string, quantity: string, compound: string, low: number | null, high: number | null) =>
    this.change(batch, () =>
      answer(
        api.POST("/api/batches/{batch}/trends/limits", {
          params: { path: { batch } },
          body: { quantity, compound, of: this.kept.of, low, high, by: "" },
        }),
      ),
    );

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
