// What a person has said so far of what is proposed for a small batch, before any of it is kept.
import { type Batch, type WholeWay, type WholeWayAsk } from "../../../api/client";
import { desk } from "../../../state/desk.svelte";

class Way {
  private of = $state("");
  private said = $state<WholeWayAsk>(nothing());
  /** The key of the proposal that Enter and X mean. */
  selected = $state("");
  /** B is held: the files as they came. */
  asCame = $state(false);

  ask(batch: Batch): WholeWayAsk {
    return this.of === batch.id ? this.said : nothing();
  }

  say(batch: Batch, change: Partial<WholeWayAsk>) {
    this.said = { ...this.ask(batch), ...change };
    this.of = batch.id;
  }

  refuse(batch: Batch, keys: string[]) {
    this.say(batch, { refused: [...new Set([...this.ask(batch).refused, ...keys])] });
  }

  /** Keeps the proposals of these keys; without any, all that stand without doubt. */
  async keep(batch: Batch, way: WholeWay, keys: string[]): Promise<boolean> {
    const kept = await desk.keepWay(this.ask(batch), keys);
    if (kept) this.selected = way.proposals.find((p) => !keys.includes(p.key))?.key ?? "";
    return kept;
  }
}

const nothing = (): WholeWayAsk => ({ name: "", apex_min: 0, unit: "", model: "linear", refused: [] });

export const way = new Way();

/** Whether a batch is small and new enough to be looked at as a whole at first. */
export const small = (batch: Batch): boolean =>
  batch.injections.length > 0 &&
  batch.injections.length <= 12 &&
  batch.version.method.compounds.length <= 1 &&
  !batch.injections.some((i) => i.typed);
