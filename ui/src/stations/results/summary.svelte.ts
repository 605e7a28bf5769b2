// How the summary tables stand: what is set against what, which statistics are told, which groups are folded. Kept by the browser.
import type { Batch, Summary, SummaryStatistics } from "../../api/client";

export const axes = ["measures", "compounds", "injections"] as const;
export type Axis = (typeof axes)[number];
export const axisWords: Record<Axis, string> = { measures: "Measures", compounds: "Compounds", injections: "Injections" };

/** The statistics in the order in which they are offered. */
export const statistics = [
  ["mean", "mean"],
  ["sd", "SD"],
  ["rsd", "RSD, %"],
  ["interval", "95 % interval, ±"],
  ["least", "minimum"],
  ["most", "maximum"],
  ["median", "median"],
  ["n", "n"],
] as const;
export type Statistic = (typeof statistics)[number][0];

export const valueOf = (s: SummaryStatistics, what: Statistic): number | null =>
  what === "n" ? s.n : what === "interval" ? s.interval_95_half : what === "rsd" ? s.rsd_percent : s[what];

/** Which tables there are, what stands across and what down. Injections never part the tables: there would be no statistics in them. */
export type Order = { each: Axis; across: Axis; down: Axis };
export const orders: Order[] = [
  { each: "measures", across: "compounds", down: "injections" },
  { each: "compounds", across: "measures", down: "injections" },
  { each: "measures", across: "injections", down: "compounds" },
  { each: "compounds", across: "injections", down: "measures" },
];

type Kept = {
  measures: string[];
  columns: string[];
  statistics: Statistic[];
  by: string;
  of: string;
  order: number;
  strips: boolean;
  beside: string[];
};
const usual: Kept = {
  measures: ["retention_min", "tailing", "area_s"],
  columns: ["all"],
  statistics: ["mean", "rsd", "interval"],
  by: "role",
  of: "measured",
  order: 0,
  strips: true,
  beside: [],
};

function kept(): Kept {
  try {
    return { ...usual, ...(JSON.parse(localStorage.getItem("yugen-summary") ?? "{}") as Partial<Kept>) };
  } catch {
    return usual; // written by hand, or by another version
  }
}

/** What can stand in a column besides each compound of the method, with its words. */
export const columnWords = (batch: Batch, id: string): string | undefined => {
  const { compounds } = batch.version.method;
  if (id === "all") return "every compound";
  if (id === "largest") return "largest peak";
  if (id.startsWith("group:")) return compounds.some((c) => c.group === id.slice(6)) ? `sum of ${id.slice(6)}` : undefined;
  if (id.startsWith("sum:")) {
    const names = id
      .slice(4)
      .split("+")
      .map((one) => compounds.find((c) => c.id === one)?.name);
    return names.every((n) => n !== undefined) ? names.join(" + ") : undefined;
  }
  return compounds.find((c) => c.id === id)?.name;
};

class Shown {
  measures = $state(kept().measures);
  columns = $state(kept().columns);
  beside = $state(kept().beside);
  /** Other batches of the study that are looked at with this one, and the injections that are chosen by hand. */
  batches = $state<string[]>([]);
  injections = $state<string[]>([]);
  statistics = $state(kept().statistics);
  by = $state(kept().by);
  of = $state(kept().of);
  turn = $state(kept().order);
  strips = $state(kept().strips);
  /** Groups that are folded, or unfolded where they would be folded by themselves. */
  turned = $state<string[]>([]);
  /** The statistic that is looked at: table, column, group and which. */
  at = $state<{ measure: string; compound: string; group: number; what: Statistic } | null>(null);

  /** The columns that this batch's method knows. */
  columnsOf(batch: Batch): string[] {
    const known = this.columns.filter((id) => columnWords(batch, id) !== undefined);
    return known.length ? known : ["all"];
  }
  /** What is asked of the server for a batch. */
  asked(batch: Batch) {
    return {
      measures: this.measures.join(","),
      columns: this.columnsOf(batch).map(encodeURIComponent).join(","),
      of: this.of === "chosen" ? this.injections.join(",") || "none" : this.of,
      by: this.by,
      batches: this.batches.join(","),
    };
  }
  get order(): Order {
    return orders[this.turn] ?? orders[0]!;
  }
  keep() {
    const now: Kept = {
      measures: this.measures,
      columns: this.columns,
      beside: this.beside,
      statistics: this.statistics,
      by: this.by,
      of: this.of,
      order: this.turn,
      strips: this.strips,
    };
    localStorage.setItem("yugen-summary", JSON.stringify(now));
  }
  turnTo(order: Order) {
    this.turn = Math.max(
      0,
      orders.findIndex((o) => o.each === order.each && o.across === order.across),
    );
    this.keep();
  }
  /** One axis takes the place of another; undefined where that cannot be. */
  swapped(a: Axis, b: Axis): Order | undefined {
    const next = Object.fromEntries(Object.entries(this.order).map(([k, v]) => [k, v === a ? b : v === b ? a : v])) as Order;
    return next.each === "injections" ? undefined : next;
  }
  folded(name: string, size: number): boolean {
    return size > 6 !== this.turned.includes(name);
  }
  fold(name: string) {
    this.turned = this.turned.includes(name) ? this.turned.filter((n) => n !== name) : [...this.turned, name];
  }
}

export const shown = new Shown();

/** Whether a relative deviation is judged: of retention always, of other measures where a group's injections should be alike. */
export const alike = (s: Summary, measure: number, group: number, by: string): boolean =>
  s.measures[measure]!.id === "retention_min" ||
  by === "replicates" ||
  by === "level" ||
  ["Checks", "Suitability"].includes(s.groups[group]!.name);
