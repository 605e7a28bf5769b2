// The bench as it is looked at: which instrument, and what is asked of it.
import { SvelteMap } from "svelte/reactivity";
import { answer, api, type BenchAct, type BenchPost, type ListAsked, type View } from "../api/client";
import { ask, queries } from "../state/ask";
import { who } from "../state/who.svelte";
import { empty, type Row } from "./newlist";

/** A list that is written for an instrument, and not given yet. It stays while one looks elsewhere, and whatever somebody else does with the instrument. */
class Draft {
  /** Whether it is on the screen although the instrument has a list. */
  open = $state(false);
  batch = $state(""); // empty for a new one
  study = $state("");
  name = $state("");
  version = $state("");
  rows = $state<Row[]>([empty(), empty(), empty()]);
  start = $state<ListAsked["start"]>("when_ready");
  ending = $state<ListAsked["ending"]>("leave_clean");
}

class Bench {
  chosen = $state("");
  trouble = $state("");
  private drafts = new SvelteMap<string, Draft>();

  /** The list that is written for an instrument. */
  draft(id: string): Draft {
    return this.drafts.get(id) ?? untouched;
  }
  /** The same, to be written on. */
  write(id: string): Draft {
    const draft = this.drafts.get(id) ?? new Draft();
    if (!this.drafts.has(id)) this.drafts.set(id, draft);
    return draft;
  }

  private async asked(to: Promise<BenchPost>): Promise<boolean> {
    try {
      const post = await to;
      queries.setQueryData(ask.bench().queryKey, (list: BenchPost[] | undefined) => list?.map((p) => (p.id === post.id ? post : p)));
      this.trouble = "";
      return true;
    } catch (error) {
      this.trouble = (error as Error).message;
      return false;
    }
  }
  async act(id: string, body: BenchAct): Promise<boolean> {
    await who.sure();
    return this.asked(answer(api.POST("/api/bench/{instrument}/acts", { params: { path: { instrument: id } }, body })));
  }
  async start(id: string, body: ListAsked): Promise<boolean> {
    await who.sure();
    const done = await this.asked(answer(api.POST("/api/bench/{instrument}/list", { params: { path: { instrument: id } }, body })));
    if (done) this.drafts.delete(id);
    return done;
  }
  fault(id: string, name: string): Promise<boolean> {
    return this.asked(answer(api.POST("/api/bench/{instrument}/faults", { params: { path: { instrument: id } }, body: { name } })));
  }
  async taken(batch: string, injection: string, reason: string): Promise<void> {
    try {
      await answer<View>(
        api.POST("/api/batches/{batch}/injections/{injection}/taken", {
          params: { path: { batch, injection }, header: { "If-Match": "*" } },
          body: { reason },
        }),
      );
      await queries.invalidateQueries({ queryKey: ["bench"] });
      this.trouble = "";
    } catch (error) {
      this.trouble = (error as Error).message;
    }
  }
}

/** Of an instrument for which nothing was written. */
const untouched = new Draft();

export const bench = new Bench();

const pad = (n: number) => String(n).padStart(2, "0");
/** The instrument's own clock, as its place has it. */
export const clock = (t: string | null | undefined, s = false): string => {
  if (!t) return "–";
  const d = new Date(t);
  return `${pad(d.getHours())}:${pad(d.getMinutes())}${s ? `:${pad(d.getSeconds())}` : ""}`;
};
/** So long, in the unit that fits. */
export const lasting = (s: number): string =>
  s < 90
    ? `${Math.round(s)} s`
    : s < 5400
      ? `${Math.round(s / 60)} min`
      : `${Math.floor(s / 3600)} h ${pad(Math.round((s % 3600) / 60))} min`;
/** Minutes and seconds that are left. */
export const left = (min: number): string => `${Math.floor(min)} min ${pad(Math.floor((min % 1) * 60))} s`;

/** A step of an axis with 3 to 8 marks. */
export function step(span: number): number {
  const raw = span / 5;
  const p = 10 ** Math.floor(Math.log10(Math.max(raw, 1e-9)));
  return [1, 2, 5, 10].map((k) => k * p).find((v) => v >= raw)!;
}
export const marks = (low: number, high: number): number[] => {
  const by = step(high - low);
  const list: number[] = [];
  for (let v = Math.ceil(low / by) * by; v <= high + by * 1e-6; v += by) list.push(Math.round(v / by) * by);
  return list;
};
