// The laboratory's own quantities while they are written: a draft of all of them, what the server makes of it, and which is looked at.
import { answer, api, Problem, type Batch, type FieldTrial, type LabField } from "../../api/client";
import { desk } from "../../state/desk.svelte";
import { who } from "../../state/who.svelte";

const pause = 70;

class FieldsDraft {
  fields = $state.raw<LabField[]>([]);
  at = $state(0);
  trial = $state.raw<FieldTrial>();
  trouble = $state("");
  /** Where the cursor stands in the formula; −1 where nothing is completed. */
  cursor = $state(-1);
  injection = "";
  compound = "";
  private saved = $state.raw<LabField[]>([]);
  private past = $state.raw<LabField[][]>([]);
  private batch = "";
  private timer: ReturnType<typeof setTimeout> | undefined;
  private asked = 0;
  private seen = ""; // whose values are shown

  get dirty(): boolean {
    return JSON.stringify(this.fields) !== JSON.stringify(this.saved);
  }
  get field(): LabField | undefined {
    return this.fields[this.at];
  }
  get state() {
    return this.trial?.fields[this.at];
  }
  /** Fields that are not understood cannot be kept. */
  get wrong(): boolean {
    return !this.trial || this.trial.fields.length !== this.fields.length || this.trial.fields.some((f) => f.problem !== null);
  }

  /** Follows the method of the batch, unless something is being written. */
  follow(batch: Batch, injection: string, compound: string) {
    const saved = batch.version.method.fields ?? [];
    const other = this.batch !== batch.id;
    if (other || (!this.dirty && JSON.stringify(saved) !== JSON.stringify(this.saved))) {
      this.batch = batch.id;
      this.fields = saved;
      this.past = [];
      this.at = Math.min(this.at, Math.max(0, saved.length - 1));
    }
    this.saved = saved;
    if (this.injection !== injection || this.compound !== compound || other || !this.trial) {
      this.injection = injection;
      this.compound = compound;
      this.soon(0);
    }
  }

  private set(fields: LabField[]) {
    this.past = [...this.past, this.fields];
    this.fields = fields;
    this.soon();
  }
  get canUndo(): boolean {
    return this.past.length > 0;
  }
  undo() {
    const before = this.past.at(-1);
    if (!before) return;
    this.past = this.past.slice(0, -1);
    this.fields = before;
    this.at = Math.min(this.at, Math.max(0, before.length - 1));
    this.soon();
  }
  discard() {
    this.past = [];
    this.fields = this.saved;
    this.at = Math.min(this.at, Math.max(0, this.saved.length - 1));
    this.trouble = "";
    this.soon(0);
  }

  change(change: Partial<Record<keyof LabField, unknown>>) {
    this.set(
      this.fields.map((f, k) =>
        k === this.at ? (Object.fromEntries(Object.entries({ ...f, ...change }).filter(([, v]) => v !== undefined)) as LabField) : f,
      ),
    );
  }
  add(field?: LabField) {
    const shorts = new Set(this.fields.map((f) => f.short));
    let n = 1;
    while (shorts.has(`field_${n}`) || this.fields.some((f) => f.name === `Field ${n}`)) n++;
    const one = field ?? { name: `Field ${n}`, short: `field_${n}`, lives: "injection", formula: "" };
    this.set([...this.fields, one]);
    this.at = this.fields.length - 1;
  }
  /** Several that are not there yet, as from a file. */
  bring(list: LabField[]) {
    const fresh = list.filter((f) => !this.fields.some((o) => o.short === f.short || o.name === f.name));
    if (fresh.length) this.set([...this.fields, ...fresh]);
    this.trouble = fresh.length < list.length ? `${list.length - fresh.length} of ${list.length} are here already, by name.` : "";
  }
  remove() {
    const used = this.state?.used_by ?? [];
    this.trouble = used.length ? `It is used by ${used.join(", ")}, which no longer can be understood.` : "";
    this.set(this.fields.filter((_, k) => k !== this.at));
    this.at = Math.max(0, this.at - 1);
  }
  async rename(short: string) {
    const from = this.field?.short;
    if (!from || short === from) return;
    const asked = this.fields;
    const list = await answer(
      api.POST("/api/batches/{batch}/fields/rename", {
        params: { path: { batch: this.batch } },
        body: { fields: asked, from, to: short },
      }),
    ).catch(() => undefined);
    // What was written meanwhile stays: only names follow.
    if (list && this.fields.length === list.length)
      this.set(
        this.fields.map((f, k) => ({
          ...f,
          short: f.short === asked[k]!.short ? list[k]!.short : f.short,
          formula: f.formula === asked[k]!.formula ? list[k]!.formula : f.formula,
        })),
      );
  }

  /** Asks the server what the draft is, a moment after the last change. */
  soon(ms = pause) {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.ask(), ms);
  }
  private async ask() {
    const mine = ++this.asked;
    const batch = this.batch;
    if (!batch) return;
    try {
      const got = await answer(
        api.POST("/api/batches/{batch}/fields/try", {
          params: { path: { batch } },
          body: { fields: this.fields, at: this.at, injection_id: this.injection, compound_id: this.compound, cursor: this.cursor },
        }),
      );
      if (mine !== this.asked || batch !== this.batch) return;
      // While a formula is not understood its values stay as they were last.
      const misread = got.fields[this.at]?.problem && this.seen === this.field?.short;
      this.trial = misread ? { ...got, values: this.trial?.values ?? [] } : got;
      this.seen = this.field?.short ?? "";
    } catch (error) {
      if (error instanceof Problem && mine === this.asked) this.trouble = error.message;
    }
  }

  async keep(batch: Batch) {
    if (!this.dirty || this.wrong) return;
    await who.sure();
    const before = new Map(this.saved.map((f) => [f.short, JSON.stringify(f)]));
    const changed = this.fields.filter((f) => before.get(f.short) !== JSON.stringify(f)).map((f) => f.name);
    const gone = this.saved.filter((f) => !this.fields.some((o) => o.short === f.short)).map((f) => `without ${f.name}`);
    const why = `fields: ${[...changed, ...gone].join(", ")}`.slice(0, 200);
    if (await desk.saveMethod({ ...batch.version.method, fields: this.fields }, why)) this.past = [];
  }
}

export const fields = new FieldsDraft();
