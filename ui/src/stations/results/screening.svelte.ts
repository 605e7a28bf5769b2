// The screening as it is looked at: which cell, and what a person says of cells. Where evidence is outside, a reason is asked for first.
import type { Batch, Screened, ScreenedCell, ScreenMark, ScreenWord } from "../../api/client";
import { count, fixed, significant } from "../../look/number";
import { desk } from "../../state/desk.svelte";
import { place } from "../../state/place.svelte";
import { reason } from "../../state/reason.svelte";

export const words: Record<Exclude<ScreenWord, "">, string> = {
  nothing: "–",
  below_limit: "below limit",
  proposed: "present?",
  look_here: "look here",
  present: "present",
  not_present: "not present",
  again: "inject again",
};
export const kinds = { retention: "Retention", spectrum: "Spectrum", ratio: "Ratio", signal_to_noise: "Signal to noise" } as const;

export const waits = (c: ScreenedCell) => c.word === "proposed" || c.word === "look_here";
/** Every injection brings all evidence that is asked for. */
export const clear = (c: ScreenedCell) => c.evidence.length > 0 && c.evidence.every((e) => e.word === "proposed");

/** A value and what is permitted, in words. */
export function said(m: ScreenMark): string {
  const digits = m.kind === "retention" ? 3 : m.kind === "spectrum" ? 1 : 0;
  const v = (x: number | null | undefined) => (m.kind === "ratio" ? `${significant((x ?? 0) * 100, 3)}` : fixed(x ?? null, digits));
  if (m.kind === "ratio") return `${m.value === null ? "no peak" : `${v(m.value)} %`}, ${v(m.low)} – ${v(m.high)} %`;
  if (m.high === null) return `${v(m.value)}, at least ${v(m.low)}`;
  return `${v(m.value)}, ${v(m.low)} – ${v(m.high)}${m.kind === "retention" ? " min" : ""}`;
}

type At = { sample: string; compound: string; name: string; cell: ScreenedCell };

class Screening {
  sample = $state("");
  compound = $state("");
  onlyFound = $state(false);
  /** Which injection of the sample is shown; "" is the one with the most to look at. */
  injection = $state("");

  rows(s: Screened) {
    return this.onlyFound ? s.samples.filter((r) => r.cells.some((c) => c.word !== "nothing")) : s.samples;
  }

  /** The chosen cell; without one the first that waits, and else the first. */
  at(s: Screened | undefined): At | undefined {
    if (!s) return;
    const rows = this.rows(s);
    let row = rows.find((r) => r.name === this.sample);
    let k = s.compounds.findIndex((c) => c.id === this.compound);
    if (!row || k < 0) {
      row = rows.find((r) => r.cells.some(waits)) ?? rows[0];
      k = Math.max(0, row?.cells.findIndex(waits) ?? 0);
    }
    const c = s.compounds[k];
    return row && c ? { sample: row.name, compound: c.id, name: c.name, cell: row.cells[k]! } : undefined;
  }

  go(sample: string, compound: string, injection = "") {
    this.sample = sample;
    this.compound = compound;
    this.injection = injection;
  }

  /** Chooses a cell, and its injection in the scroll. */
  choose(s: Screened, sample: string, compound: string) {
    this.go(sample, compound);
    const cell = this.at(s)?.cell;
    place.go({ query: { i: cell?.evidence[cell.shown]?.injection_id, c: compound } }, false);
  }

  /** The next cell that waits, after the chosen one and round again. */
  next(s: Screened, way: 1 | -1 = 1) {
    const all = this.rows(s).flatMap((r) => r.cells.map((cell, k) => ({ sample: r.name, compound: s.compounds[k]!.id, cell })));
    const now = this.at(s);
    const here = all.findIndex((c) => c.sample === now?.sample && c.compound === now.compound);
    for (let step = 1; step <= all.length; step++) {
      const c = all[(here + way * step + step * all.length) % all.length]!;
      if (waits(c.cell)) return this.choose(s, c.sample, c.compound);
    }
  }

  async say(s: Screened, word: ScreenWord) {
    const at = this.at(s);
    if (!at || at.cell.word === word) return;
    let why = "";
    const plain = word === "" || word === "again" || (word === "present" && clear(at.cell));
    if (!plain) {
      const given = await reason.ask(
        `${at.name} in ${at.sample} is ${word === "present" ? "present" : "not present"}`,
        word === "present" ? "Not all evidence speaks for it: the record says why it is present." : "",
        true,
      );
      if (given === null) return;
      why = given;
    }
    const done = `${at.name} in ${at.sample}: ${word === "" ? "open again" : words[word]}`;
    const decision = { sample: at.sample, compound_id: at.compound, word, why, print: at.cell.print };
    if ((await desk.decide([decision], done)) && word !== "") {
      this.go(at.sample, at.compound);
    }
  }

  /** Confirms all that stand without doubt, as one change. */
  async all(batch: Batch, s: Screened) {
    const list = s.samples.flatMap((r) =>
      r.cells.flatMap((c, k) =>
        c.word === "proposed" && clear(c)
          ? [{ sample: r.name, compound_id: s.compounds[k]!.id, word: "present" as const, why: "", print: c.print }]
          : [],
      ),
    );
    if (list.length) await desk.decide(list, `${count(list.length, "compound")} confirmed in ${batch.name}`);
  }
}

export const screening = new Screening();
