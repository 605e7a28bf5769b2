// The text of docs/help.md, cut into what each station shows.
import text from "../../../docs/help.md?raw";

export type Step = { done: string; text: string; part: string };
export type Section = { name: string; purpose: string; steps: Step[]; words: { word: string; meaning: string }[] };
export type Formula = { name: string; rule: string; text: string; meaning: string };

const step = /^\d+\.\s+(?:\{(\w+)\}\s+)?(.*?)(?:\s+`→ (.+)`)?$/;
const formula = /^\*\*(.+?)\*\* \{(\w+)\} `(.+?)`(.*)$/;
const word = /^\*\*(.+?)\*\*\s+(.*)$/;

export function sections(source: string): Section[] {
  return source
    .split(/^## /m)
    .slice(1)
    .map((part) => {
      const lines = part.split("\n").map((l) => l.trim());
      const out: Section = { name: lines[0]!, purpose: "", steps: [], words: [] };
      for (const line of lines.slice(1)) {
        const s = step.exec(line);
        const w = word.exec(line);
        if (s) out.steps.push({ done: s[1] ?? "", text: s[2]!, part: s[3] ?? "" });
        else if (w) out.words.push({ word: w[1]!, meaning: w[2]! });
        else if (line && !out.purpose) out.purpose = line;
      }
      return out;
    });
}

const all = sections(text);

/** The formulas of workings, by their rules. */
export const formulas: ReadonlyMap<string, Formula> = new Map(
  text.split("\n").flatMap((line) => {
    const f = formula.exec(line.trim());
    return f ? [[f[2]!, { name: f[1]!, rule: f[2]!, text: f[3]!, meaning: f[4]!.replace(/^[:;,]\s*/, "").trim() }] as const] : [];
  }),
);

/** The sections of places. */
export const places = all.filter((s) => s.name !== "Formulas");
export const helpOf = (name: string): Section | undefined => all.find((s) => s.name.toLowerCase() === name);
