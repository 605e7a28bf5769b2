// A list that is being written: rows of text under the fields of the run list, filled down, as a series, or pasted.
export const fields = ["name", "vial", "role", "level", "sample", "volume", "dilution"] as const;
export type Field = (typeof fields)[number];
export type Row = Record<Field, string>;

export const empty = (): Row => ({ name: "", vial: "", role: "", level: "", sample: "", volume: "", dilution: "" });

/** The value of a row goes to all below it. */
export function fillDown(rows: Row[], at: number, field: Field): Row[] {
  return rows.map((r, k) => (k > at ? { ...r, [field]: rows[at]![field] } : r));
}

/** The last number in a text counts on downwards: B1, B2, B3; a text without one gets 1, 2, 3 behind it. */
export function series(rows: Row[], at: number, field: Field): Row[] {
  const text = rows[at]![field];
  const found = /^(.*?)(\d+)(\D*)$/.exec(text);
  return rows.map((r, k) => {
    if (k <= at) return r;
    if (!found) return { ...r, [field]: text === "" ? "" : `${text} ${k - at + 1}` };
    const n = String(Number(found[2]) + k - at).padStart(found[2]!.length, "0");
    return { ...r, [field]: `${found[1]}${n}${found[3]}` };
  });
}

/** A table from a spreadsheet is put over the rows from a place on; rows that are missing are added. */
export function pasted(rows: Row[], at: number, field: Field, text: string): Row[] {
  const table = text
    .replace(/\r?\n$/, "")
    .split(/\r?\n/)
    .map((l) => l.split("\t"));
  const first = fields.indexOf(field);
  const out = rows.map((r) => ({ ...r }));
  table.forEach((cells, k) => {
    out[at + k] ??= empty();
    cells.forEach((cell, c) => {
      const f = fields[first + c];
      if (f) out[at + k]![f] = cell.trim();
    });
  });
  return out;
}

const row = (name: string, vial: string, role: string, more: Partial<Row> = {}): Row => ({ ...empty(), name, vial, role, ...more });
/** What stands in the tray of a stand-in, as a list of seven. */
export const examples: Record<string, Row[]> = {
  lc: [
    row("Standard 60 mg/L", "A5", "standard", { level: "60" }),
    ...["Sencha first flush", "Sencha first flush", "Sencha second flush", "Sencha second flush", "Gyokuro"].map((n, k) =>
      row(n, `B${k + 1}`, "sample", { sample: "0.2", volume: "50", dilution: "2" }),
    ),
    row("Check, closing", "A5", "check", { level: "60" }),
  ],
  gc: [
    row("Standard 200 mg/L", "2", "standard", { level: "200" }),
    ...[
      "Hill garden, cold pressed",
      "Hill garden, cold pressed",
      "River terrace, cold pressed",
      "River terrace, cold pressed",
      "Old orchard, refined",
    ].map((n, k) => row(n, String(3 + k), "sample")),
    row("Check, closing", "2", "check", { level: "200" }),
  ],
  gcms: [
    row("Aroma mix 10 mg/L", "3", "standard", { level: "10" }),
    ...["Sencha first flush", "Sencha first flush", "Gyokuro", "Gyokuro", "Hojicha"].map((n, k) => row(n, String(4 + k), "sample")),
    row("Check, closing", "3", "check", { level: "10" }),
  ],
};
/** The study of the demo that belongs to a kind of instrument. */
export const studyOf: Record<string, string> = { lc: "Green tea assay", gc: "Camellia seed oil", gcms: "Tea aroma" };
