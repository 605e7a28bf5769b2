// Examples for which settings are to be found: peaks to keep and to ignore, marked on any injections of the batch.
import { answer, api, type Settings } from "../../api/client";

export type Example = { injection_id: string; at_min: number; keep: boolean };
export type Suggestion = { settings: Settings; satisfied: boolean[]; contradicting: number[] };

class Examples {
  open = $state(false);
  marks = $state<Example[]>([]);
  /** The answer to the marks as they are; null while there is none. */
  suggestion = $state<Suggestion | null>(null);
  busy = $state(false);
  trouble = $state("");

  /** Marks a place; the same again turns keep into ignore and back. */
  mark(injection: string, atMin: number, keep: boolean, near = 0.02) {
    this.suggestion = null;
    const k = this.marks.findIndex((m) => m.injection_id === injection && Math.abs(m.at_min - atMin) < near);
    if (k < 0) this.marks.push({ injection_id: injection, at_min: Number(atMin.toFixed(4)), keep });
    else this.marks[k]!.keep = keep;
  }

  forget(k: number) {
    this.suggestion = null;
    this.marks.splice(k, 1);
  }

  close() {
    this.open = false;
    this.marks = [];
    this.suggestion = null;
    this.trouble = "";
  }

  async ask(batch: string, channel: string, fromMin: number, toMin: number): Promise<Suggestion | null> {
    this.busy = true;
    this.trouble = "";
    try {
      const body = { channel, marks: this.marks, from_min: fromMin, to_min: toMin };
      this.suggestion = await answer(api.POST("/api/batches/{batch}/suggestions", { params: { path: { batch } }, body }));
    } catch (error) {
      this.trouble = (error as Error).message;
      this.suggestion = null;
    } finally {
      this.busy = false;
    }
    return this.suggestion;
  }
}

export const examples = new Examples();
