// What the station of spectra shows: which ions stand in lanes, which were taken away, which hit is looked at, and what the spectrum is taken of.
import type { SpectrumHit } from "../../api/client";

const memory = "yugen-ions";

const read = (): string[] => {
  try {
    const kept = JSON.parse(localStorage.getItem(memory) ?? "[]") as unknown;
    return Array.isArray(kept) ? kept.filter((w): w is string => typeof w === "string") : [];
  } catch {
    return [];
  }
};

class SpectraShown {
  /** Ions in words, as "69±0.3"; each is drawn once however often it is asked for. */
  ions = $state<string[]>(read());
  /** Those that were taken away, which can be had back. */
  removed = $state<string[]>([]);
  /** The id of the hit that is looked at; "" is the first. */
  hit = $state("");
  /** A stretch and backgrounds that were dragged, min; without them they are those of the peak. */
  stretch = $state<[number, number] | null>(null);
  background = $state<[number, number][] | null>(null);
  plain = $state(false);
  /** Of masses: the map of the run in place of the peak and its spectrum. */
  map = $state(false);

  /** Hits by their match, or by match and index together. */
  order = $state<"match" | "both">("match");
  ordered(hits: SpectrumHit[]): SpectrumHit[] {
    if (this.order === "match") return hits;
    return hits.toSorted((a, b) => (b.combined ?? b.forward) - (a.combined ?? a.forward));
  }

  private keep() {
    localStorage.setItem(memory, JSON.stringify(this.ions));
  }
  /** Draws those that are not there yet, and says how many that were. */
  add(list: string[]): number {
    const before = this.ions.length;
    this.ions = [...this.ions, ...list.filter((w) => !this.ions.includes(w))].slice(0, 6);
    this.removed = this.removed.filter((w) => !this.ions.includes(w));
    this.keep();
    return this.ions.length - before;
  }
  take(words: string) {
    this.ions = this.ions.filter((w) => w !== words);
    this.removed = [...this.removed.filter((w) => w !== words), words];
    this.keep();
  }
  /** Another peak, another spectrum. */
  again() {
    this.hit = "";
    this.stretch = null;
    this.background = null;
  }
}

export const shown = new SpectraShown();
export const ionOf = (mz: number): string => `${Number(mz.toFixed(2))}±0.3`;
