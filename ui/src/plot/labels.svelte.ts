// Which values stand at the apexes, and at what angle: one choice for all chromatograms, remembered in this browser.
import { significant } from "../look/number";
import type { Shown } from "./Chromatogram.svelte";

const memory = "yugen-labels";
const choices: [key: "time" | "area" | "height" | "signal_to_noise" | "resolution", word: string, of: (p: Shown) => string][] = [
  ["time", "retention time", (p) => p.apex_min.toFixed(2)],
  ["area", "area", (p) => significant(p.area_s, 4)],
  ["height", "height", (p) => significant(p.height, 3)],
  ["signal_to_noise", "signal-to-noise", (p) => (p.signal_to_noise === null ? "" : `S/N ${p.signal_to_noise!.toFixed(0)}`)],
  ["resolution", "resolution", (p) => (p.resolution === null ? "" : `Rs ${p.resolution!.toFixed(2)}`)],
];

class Labels {
  shown = $state(true);
  name = $state(true);
  chosen = $state<string[]>(["time"]);
  angle = $state(0);
  readonly choices = choices;

  constructor() {
    const kept = JSON.parse(localStorage.getItem(memory) ?? "{}") as Partial<Labels>;
    this.shown = kept.shown ?? true;
    this.name = kept.name ?? true;
    this.chosen = kept.chosen ?? ["time"];
    this.angle = kept.angle ?? 0;
  }

  values(p: Shown): string {
    return choices
      .filter(([key]) => this.chosen.includes(key))
      .map(([, , of]) => of(p))
      .filter(Boolean)
      .join(" · ");
  }

  set(change: Partial<Pick<Labels, "shown" | "name" | "chosen" | "angle">>) {
    Object.assign(this, change);
    const { shown, name, chosen, angle } = this;
    localStorage.setItem(memory, JSON.stringify({ shown, name, chosen, angle }));
  }
}

export const labels = new Labels();
