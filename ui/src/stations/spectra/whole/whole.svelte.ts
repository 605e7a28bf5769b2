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
  /** How many spectra of libraries are told of each compound. */
  hits = $state(1);
  /** Whether amounts bear their uncertainty. */
  uncertain = $state(false);
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

  /** The relative expanded uncertainty (k = 2) of a relative amount. */
  uncertainty(batch: Batch, w: WholeBatch, row: ResolvedRow, k: number): number | null {
    const own = row.uncertain[k];
    if (own == null) return null;
    const is = this.standard(batch, w);
    if (this.by === "standard" && is) return row === is ? 0 : 2 * Math.hypot(own, is.uncertain[k] ?? 0);
    if (this.by !== "total") return 2 * own;
    const others = w.rows.filter((r) => r !== is && !r.aside);
    const total = others.reduce((n, r) => n + (r.amounts[k] ?? 0), 0);
    return 2 * Math.hypot(...others.map((r) => ((r === row ? 1 : 0) - (r.amounts[k] ?? 0) / total) * (r.uncertain[k] ?? 0)));
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

type Cut = { from_min: number; to_min: number };

/** Where the run is cut, to be changed. */
export const cutsOf = (w: WholeBatch | undefined): Cut[] => (w?.stretches ?? []).map((s) => ({ from_min: s.from_min, to_min: s.to_min }));

/** Moves an end of a stretch; its neighbour gives way, and it never passes the neighbour's other end. */
export function moved(list: Cut[], at: number, end: keyof Cut, to: number): Cut[] {
  const s = list[at]!;
  const before = list[at - 1];
  const after = list[at + 1];
  const least = 0.01;
  if (end === "from_min") {
    const v = Math.min(s.to_min - least, Math.max(before ? before.from_min + least : 0, to));
    if (before && (before.to_min > v || before.to_min === s.from_min)) before.to_min = v;
    s.from_min = v;
  } else {
    const v = Math.max(s.from_min + least, after ? Math.min(after.to_min - least, to) : to);
    if (after && (after.from_min < v || after.from_min === s.to_min)) after.from_min = v;
    s.to_min = v;
  }
  return list;
}

/** Cuts the run at a time: a stretch becomes two; where there is none, the gap becomes one. */
export function cutAt(list: Cut[], at: number): Cut[] {
  const k = list.findIndex((s) => s.from_min < at && at < s.to_min);
  if (k >= 0) {
    const s = list[k]!;
    list.splice(k, 1, { from_min: s.from_min, to_min: at }, { from_min: at, to_min: s.to_min });
    return list;
  }
  const half = 0.2;
  const from = Math.max(0, at - half, ...list.filter((s) => s.to_min <= at).map((s) => s.to_min));
  const to = Math.min(at + half, ...list.filter((s) => s.from_min >= at).map((s) => s.from_min));
  return [...list, { from_min: from, to_min: to }].toSorted((a, b) => a.from_min - b.from_min);
}

/** The hands of components: the first three have lines of their own, in any light. */
export const hand = (k: number, background: boolean): string =>
  background ? "background" : (["first", "second", "third", "fourth"][k % 4] ?? "first");
