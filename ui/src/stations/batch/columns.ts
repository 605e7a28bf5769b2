// The columns of the run list: how each shows an entry and how a series goes on.
import type { Batch, EntryChange, Injection } from "../../api/client";
import { missing } from "../../look/number";

export type Column = {
  field: EntryChange["field"];
  head: string;
  number: boolean;
  width: string;
  text: (i: Injection) => string;
};

const plain = (v: number | null) => (v === null ? "" : String(v));

/** Seldom used columns stand there when an injection or the method uses them, or when all are asked for. */
export function columns(batch: Batch, all: boolean): Column[] {
  const m = batch.version.method;
  const used = (by: (i: Injection) => boolean) => batch.injections.some(by);
  return [
    { field: "name", head: "Name", number: false, width: "auto", text: (i) => i.name },
    { field: "role", head: "Role", number: false, width: "84px", text: (i) => i.role },
    { field: "level", head: `Level, ${m.curves.unit}`, number: true, width: "88px", text: (i) => plain(i.level) },
    { field: "vial", head: "Vial", number: false, width: "56px", text: (i) => i.vial },
    {
      field: "dilution",
      head: "Dilution",
      number: true,
      width: "72px",
      text: (i) => (i.dilution === 1 ? "" : String(i.dilution)),
    },
    {
      field: "volume",
      head: `Extract, ${m.amounts.volume_unit}`,
      number: true,
      width: "84px",
      text: (i) => plain(i.volume),
    },
    {
      field: "sample",
      head: `Sample, ${m.amounts.sample_unit}`,
      number: true,
      width: "84px",
      text: (i) => (i.sample === null ? "" : i.sample.toFixed(4).replace(/0+$/, "").replace(/\.$/, "")),
    },
    ...(all || used((i) => i.factor !== 1)
      ? [
          {
            field: "factor" as const,
            head: "Factor",
            number: true,
            width: "64px",
            text: (i: Injection) => (i.factor === 1 ? "" : String(i.factor)),
          },
        ]
      : []),
    ...((all && m.compounds.some((c) => c.role === "internal_standard")) || used((i) => i.internal != null || !!i.internals?.length)
      ? [
          {
            field: "internal" as const,
            head: `Int. std, ${m.curves.unit}`,
            number: true,
            width: "94px",
            text: (i: Injection) => i.internals?.map((a) => `${a.name} ${a.amount}`).join("; ") ?? plain(i.internal ?? null),
          },
        ]
      : []),
    ...(all || m.curves.way === "standard_addition" || used((i) => i.added != null)
      ? [
          {
            field: "added" as const,
            head: `Added, ${m.curves.unit}`,
            number: true,
            width: "88px",
            text: (i: Injection) => plain(i.added ?? null),
          },
        ]
      : []),
    ...(all || m.compounds.some((c) => c.mix) || used((i) => !!i.mix)
      ? [{ field: "mix" as const, head: "Mixture", number: false, width: "72px", text: (i: Injection) => i.mix ?? "" }]
      : []),
    ...(all || used((i) => !!i.preparation)
      ? [{ field: "preparation" as const, head: "Preparation", number: false, width: "92px", text: (i: Injection) => i.preparation ?? "" }]
      : []),
    ...batch.own_columns
      .filter((c) => all || !c.hidden)
      .map((c) => ({
        field: `own:${c.id}`,
        head: c.unit ? `${c.name}, ${c.unit}` : c.name,
        number: c.kind === "number",
        width: "92px",
        text: (i: Injection) => i.own?.[c.id] ?? "",
      })),
  ];
}

export const shownText = (c: Column, i: Injection) =>
  c.field === "dilution" && i.dilution !== 1 ? `×${i.dilution}` : c.text(i) || missing;

/** Goes on with a series: 1, 2 → 3; A7, A8 → A9; one value with a number in it counts up; anything else repeats. */
export function continueSeries(given: string[], count: number): string[] {
  const parts = given.map((t) => /^(.*?)(-?\d+(?:[.,]\d+)?)(\D*)$/.exec(t));
  const first = parts[0];
  const last = parts.at(-1);
  if (!first || !last || parts.some((p) => !p || p[1] !== first[1] || p[3] !== first[3])) {
    return Array.from({ length: count }, (_, k) => given[k % given.length] ?? "");
  }
  const value = (p: RegExpExecArray) => Number(p[2]!.replace(",", "."));
  const step = given.length > 1 ? (value(last) - value(first)) / (given.length - 1) : 1;
  return Array.from({ length: count }, (_, k) => {
    const v = value(last) + step * (k + 1);
    const digits = Math.max(...parts.map((p) => (p![2]!.split(/[.,]/)[1] ?? "").length));
    return `${first[1]}${v.toFixed(digits).padStart(/^0\d/.test(first[2]!) ? first[2]!.length : 0, "0")}${first[3]}`;
  });
}
