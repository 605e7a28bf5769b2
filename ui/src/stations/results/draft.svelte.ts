// A method that is being tried: changed as often as one likes, seen at once, kept or discarded as a whole.
import type { Batch, Method } from "../../api/client";
import { desk } from "../../state/desk.svelte";
import { reason } from "../../state/reason.svelte";

class Draft {
  /** Of which version of which batch it is; a draft of another is none. */
  private of = $state("");
  private held = $state<Method | null>(null);
  private words = $state<string[]>([]);

  method(batch: Batch): Method | null {
    return this.of === batch.version.id + batch.id ? this.held : null;
  }

  /** What has been changed, in words. */
  get what(): string {
    return this.words.join("; ");
  }

  change(batch: Batch, change: Partial<Method>, what: string) {
    const now = this.method(batch) ?? batch.version.method;
    if (this.of !== batch.version.id + batch.id || !this.held) this.words = [];
    this.of = batch.version.id + batch.id;
    this.held = { ...now, ...change };
    this.words = [...this.words.filter((w) => w.split(":")[0] !== what.split(":")[0]), what];
    if (JSON.stringify(this.held) === JSON.stringify(batch.version.method)) this.discard();
  }

  discard() {
    this.held = null;
  }

  async keep(batch: Batch) {
    const method = this.method(batch);
    if (!method) return;
    const why = await reason.ask("Amounts", this.what);
    if (why && (await desk.saveMethod(method, why))) this.discard();
  }
}

export const draft = new Draft();
