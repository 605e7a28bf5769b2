// The matrix as it is looked at: which values, which rows, in which order.
import type { Batch, Compound, Reading, Result, SampleValue } from "../../api/client";
import { replicate } from "../../state/desk.svelte";

export type Row = {
  id: string;
  name: string;
  note: string;
  missing: string;
  sample: boolean;
  cells: (SampleValue | Reading)[];
};

class Looking {
  mode = $state<"mean" | "each" | "concentration">("mean");
  sought = $state("");
  flagged = $state(false);
  sorted = $state<{ id: string; down: boolean } | null>(null);
  intervals = $state(false);

  /** First by what is greatest, then the other way round, then in run order again. */
  sortBy(id: string) {
    this.sorted = this.sorted?.id !== id ? { id, down: true } : this.sorted.down ? { id, down: false } : null;
  }

  private amountOf(c: SampleValue | Reading | undefined): number {
    return (
      (c && ("mean" in c ? (c.mean ?? c.concentration.mean) : this.mode === "concentration" ? c.concentration : c.amount)) ?? -Infinity
    );
  }

  /** All rows, in run order. */
  all(batch: Batch, result: Result, compounds: Compound[], groups: string[], weighed: boolean): Row[] {
    const unit = batch.version.method.amounts.sample_unit;
    const weights = (ids: string[]) =>
      ids
        .map((id) => batch.injections.find((i) => i.id === id)!.sample)
        .map((v) => (v === null ? "" : v.toFixed(4)))
        .filter(Boolean)
        .join(", ");
    if (this.mode === "mean")
      return result.samples.map((s) => {
        const bare = s.injection_ids.filter((id) => batch.injections.find((i) => i.id === id)!.sample === null).length;
        return {
          id: s.injection_ids[0]!,
          name: s.name,
          note: `${s.injection_ids.map((id) => batch.injections.findIndex((i) => i.id === id) + 1).join(", ")}${weights(s.injection_ids) ? ` · ${weights(s.injection_ids)} ${unit}` : ""}`,
          missing: bare && weighed ? "no weight" : "",
          sample: true,
          cells: [...compounds.map((c) => s.values[c.id]!), ...groups.map((g) => s.groups![g]!)],
        };
      });
    return result.injections.flatMap((r, i) => {
      const inj = batch.injections[i]!;
      if (this.mode === "each" && inj.role !== "sample") return [];
      if (inj.role === "blank" || inj.role === "") return [];
      return [
        {
          id: r.id,
          name: inj.name,
          note: `injection ${i + 1}${replicate(batch, i) ? ` · ${replicate(batch, i)}` : ""}`,
          missing: weighed && inj.role === "sample" && inj.sample === null ? "no weight" : "",
          sample: inj.role === "sample",
          cells: compounds.map((c) => r.readings[c.id]!), // sums are of means only
        },
      ];
    });
  }

  /** Those that are shown, in the order that is asked for. */
  shown(all: Row[], columns: { id: string }[]): Row[] {
    const list = all.filter(
      (r) =>
        r.name.toLowerCase().includes(this.sought.trim().toLowerCase()) &&
        (!this.flagged || r.missing || r.cells.some((c) => c.flags.some((f) => f !== "below_loq"))),
    );
    const sorted = this.sorted;
    if (!sorted) return list;
    const k = columns.findIndex((c) => c.id === sorted.id);
    const by =
      sorted.id === ""
        ? (a: Row, b: Row) => a.name.localeCompare(b.name)
        : (a: Row, b: Row) => this.amountOf(b.cells[k]) - this.amountOf(a.cells[k]);
    return list.toSorted((a, b) => (sorted.down ? by(a, b) : by(b, a)));
  }
}

export const looking = new Looking();
