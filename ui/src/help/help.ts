// The text of docs/help.md, cut into what each station shows.
import text from "../../../docs/help.md?raw";

export type Step = { done: string; text: string; part: string };
export type Section = { name: string; purpose: string; steps: Step[]; words: { word: string; meaning: string }[] };

const step = /^\d+\.\s+(?:\{(\w+)\}\s+)?(.*?)(?:\s+`→ (.+)`)?$/;
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
export const helpOf = (name: string): Section | undefined => all.find((s) => s.name.toLowerCase() === name);
