// The whole batch resolved, as it is looked at: which stretch, which component, and what amounts are relative to.
import { answer, api, Problem, type Batch, type ResolvedRow, type WholeBatch } from "../../../api/client";
import { queries } from "../../../state/ask";
import { desk } from "../../../state/desk.svelte";
import { underway } from "../../../state/underway.svelte";
import { who } from "../../../state/who.svelte";

class Whole {
  stretch = $state(-1);
  component = $state(0);
  /** What amounts are divided by. */
  by = $state<"standard" | "total" | "none">("standard");
  trouble = $state("");
  /** The batch whose resolving is being asked for. */
  asked = $state("");

  /** The row of the internal standard of the method, where it was resolved. */
  standard(batch: Batch, w: WholeBatch): ResolvedRow | undefined {
    const names = batch.version.method.compounds.filter((c) => c.role === "internal_standard").map((c) => c.name.toLowerCase());
    return w.rows.find((r) => names.includes(r.name.toLowerCase()));
  }

  /** The amounts of a row, relative to what was chosen. */
  amounts(batch: Batch, w: WholeBatch, row: ResolvedRow): (number | null)[] {
    const is = this.standard(batch, w);
    return row.amounts.map((v, k) => {
      if (v === null) return null;
      if (this.by === "standard" && is) return is.amounts[k] ? v / is.amounts[k] : null;
      if (this.by === "total") {
        const total = w.rows.reduce((n, r) => n + (r === is || r.aside ? 0 : (r.amounts[k] ?? 0)), 0);
        return total > 0 ? (100 * v) / total : null;
      }
      return v;
    });
  }

  choose(stretch: number, component = 0) {
    this.stretch = stretch;
    this.component = component;
  }

  private async act(what: () => Promise<unknown>) {
    this.trouble = "";
    try {
      await who.sure();
      await what();
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      this.trouble = error.message;
    }
    await queries.invalidateQueries({ queryKey: ["resolving"] });
    await queries.invalidateQueries({ queryKey: ["resolved stretch"] });
  }
  async run(batch: string) {
    this.asked = batch;
    await this.act(() => answer(api.POST("/api/batches/{batch}/resolving", { params: { path: { batch } } })));
    this.asked = ""; // from now on the job tells
    await underway.read();
  }
  number(batch: string, compounds: number) {
    const stretch = this.stretch;
    return this.act(() =>
      answer(api.POST("/api/batches/{batch}/resolving/number", { params: { path: { batch } }, body: { stretch, compounds } })),
    );
  }
  /** Cuts the run anew; none at all go back to those that are proposed. */
  cut(batch: string, stretches: { from_min: number; to_min: number }[]) {
    this.asked = "";
    return this.act(() =>
      answer(api.POST("/api/batches/{batch}/resolving/stretches", { params: { path: { batch } }, body: { stretches } })),
    );
  }
  aside(batch: string, aside: boolean) {
    const { stretch, component } = this;
    return this.act(() =>
      answer(api.POST("/api/batches/{batch}/resolving/aside", { params: { path: { batch } }, body: { stretch, component, aside } })),
    );
  }
  async confirm(name: string) {
    if (name) await desk.nameComponent(this.stretch, this.component, name);
  }
}

export const whole = new Whole();

/** The hands of components: the first three have lines of their own, in any light. */
export const hand = (k: number, background: boolean): string =>
  background ? "background" : (["first", "second", "third", "fourth"][k % 4] ?? "first");
