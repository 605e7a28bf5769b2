// What a cell of the results says: a value, what stands under it, and the flag that comes first.
import type { Reading, SampleValue } from "../../api/client";
import { fixed, missing, significant } from "../../look/number";
import { flagWords } from "../../parts/Mark.svelte";

export type Cell = { value: string; under: string; flag: string | undefined };
export type Asked = {
  /** Concentrations in what was injected, rather than amounts in the sample. */
  concentration: boolean;
  /** 95 % intervals under the values. */
  intervals: boolean;
  unit: string;
  loq: number | null;
  /** The sum of a group, which is shown even where one of it is below its limit. */
  group: boolean;
};

const order = ["above_range", "below_lod", "below_loq", "not_found", "check_drift"] as const;
const attention = ["above_range", "no_sample_amount"];
const caution = ["check_drift"];

/** The class of a flag: what must be decided, what is good to know, a plain fact. */
export const tone = (flag: string | undefined) =>
  flag && attention.includes(flag) ? "att" : flag && caution.includes(flag) ? "cau" : "mut";

const interval = (ci: number[]) => `${significant(ci[0]!, 3)} – ${significant(ci[1]!, 3)}`;

export function cell(c: SampleValue | Reading, asked: Asked): Cell {
  const flag = order.find((f) => c.flags.includes(f));
  if (flag === "not_found") return { value: missing, under: "not found", flag };
  return "mean" in c ? ofMean(c, asked, flag) : asked.concentration ? ofConcentration(c, flag) : ofReplicate(c, asked, flag);
}

function ofMean(v: SampleValue, asked: Asked, flag: string | undefined): Cell {
  if (v.mean === null)
    return v.concentration.mean === null
      ? { value: missing, under: "", flag }
      : { value: significant(v.concentration.mean, 3), under: asked.unit, flag };
  if (flag === "below_lod" && !asked.group) return { value: "n. d.", under: "not detected", flag };
  if (flag === "below_loq" && !asked.group) return { value: "< LOQ", under: `${significant(v.mean, 2)} found`, flag };
  const part = v.n < v.of ? `${v.n} of ${v.of}` : "";
  const spread = v.rsd_percent === null ? part || `n = ${v.n}` : `${fixed(v.rsd_percent, 1)} %${part && `, ${part}`}`;
  return {
    value: significant(v.mean, 3),
    under:
      asked.intervals && v.ci95
        ? interval(v.ci95)
        : flag
          ? [flagWords[flag]!, part].filter(Boolean).join(", ")
          : v.absent?.length
            ? `without ${v.absent.join(", ")}`
            : spread,
    flag,
  };
}

function ofConcentration(r: Reading, flag: string | undefined): Cell {
  const error = r.concentration_se === null ? "" : `± ${significant(r.concentration_se, 2)}`;
  const under = r.recovery_percent !== null ? `${fixed(r.recovery_percent, 1)} %` : flag ? flagWords[flag]! : error;
  return { value: significant(r.concentration, 3), under, flag };
}

function ofReplicate(r: Reading, asked: Asked, flag: string | undefined): Cell {
  if (r.amount === null)
    return { value: missing, under: r.problem ? "no value" : (flagWords[r.flags[0] ?? ""] ?? ""), flag: flag ?? r.flags[0] };
  if (flag === "below_lod") return { value: "n. d.", under: "not detected", flag };
  const error = r.amount_se === null ? "" : `± ${significant(r.amount_se, 2)}`;
  const told = flag === "below_loq" && asked.loq ? `below ${asked.loq} ${asked.unit}` : flag ? flagWords[flag]! : error;
  return { value: significant(r.amount, 3), under: asked.intervals && r.amount_ci95 ? interval(r.amount_ci95) : told, flag };
}
