// The review that is open: which change is looked at, what is said of it, and signing.
import { answer, api, Problem, type Batch, type Review, type ReviewItem } from "../../api/client";
import { queries } from "../../state/ask";
import { desk } from "../../state/desk.svelte";
import { who } from "../../state/who.svelte";
import { groups, type Group } from "./words";

class Reviewing {
  group = $state<Group>("all");
  /** The key of the change that is looked at. */
  key = $state("");
  remark = $state("");
  /** Held: as it was before. */
  hold = $state(false);
  trouble = $state("");
  busy = $state(false);

  listed(r: Review | undefined): ReviewItem[] {
    const of = groups.find((g) => g.id === this.group)!.of;
    return r?.items.filter((i) => of(i)) ?? [];
  }
  at(r: Review | undefined): ReviewItem | undefined {
    const list = this.listed(r);
    return list.find((i) => i.key === this.key) ?? list[0];
  }
  look(key: string) {
    if (key !== this.key) this.remark = "";
    this.key = key;
  }
  along(r: Review | undefined, by: number) {
    const list = this.listed(r);
    const now = list.findIndex((i) => i.key === this.at(r)?.key);
    const next = list[Math.max(0, Math.min(list.length - 1, now + by))];
    if (!next) return;
    this.look(next.key);
    document.querySelector(`[data-key="${next.key}"]`)?.scrollIntoView({ block: "nearest" });
  }

  /** Runs a request, keeps what it answers, and gives the sentence of a refusal, or nothing. */
  async run(batch: Batch, what: string, request: () => Promise<unknown>): Promise<string> {
    this.busy = true;
    try {
      await who.sure();
      await request();
      await desk.reread();
      await queries.invalidateQueries({ queryKey: ["review", batch.id] });
      void queries.invalidateQueries({ queryKey: ["record"] });
      void queries.invalidateQueries({ queryKey: ["studies"] });
      desk.done = what;
      this.trouble = "";
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      this.trouble = error.message;
      if (error.status === 412) await desk.reread();
    } finally {
      this.busy = false;
    }
    return this.trouble;
  }

  async judge(batch: Batch, r: Review, items: ReviewItem[], verdict: "accepted" | "sent back") {
    const said = this.remark.trim();
    if (items.length === 0 || this.busy) return;
    if (verdict === "sent back" && !said) {
      this.trouble = "What is sent back has a remark that says why.";
      document.querySelector<HTMLTextAreaElement>("#review-remark")?.focus();
      return;
    }
    const list = this.listed(r);
    const now = list.findIndex((i) => i.key === items.at(-1)!.key);
    const next = list.slice(now + 1).find((i) => !i.judged) ?? list.find((i) => !i.judged && !items.includes(i));
    const path = { batch: batch.id };
    const body = { keys: items.map((i) => i.key), verdict, ...(said ? { remark: said } : {}) };
    if (await this.run(batch, verdict, () => answer(api.POST("/api/batches/{batch}/review", { params: { path }, body })))) return;
    this.remark = "";
    if (next) this.look(next.key);
  }

  sign(batch: Batch, meaning: Review["may"][number]["meaning"], password: string) {
    return this.run(batch, `signed as ${meaning}`, () =>
      answer(
        api.POST("/api/batches/{batch}/signatures", {
          params: { path: { batch: batch.id }, header: { "If-Match": `"${batch.revision}"` } },
          body: { meaning, ...(password ? { password } : {}) },
        }),
      ),
    );
  }

  approve(batch: Batch, password: string) {
    return this.run(batch, `version ${batch.version.number} approved`, async () => {
      await answer(
        api.POST("/api/methods/versions/{version}/approval", {
          params: { path: { version: batch.version.id } },
          body: password ? { password } : {},
        }),
      );
      void queries.invalidateQueries({ queryKey: ["methods"] });
    });
  }

  unlock(batch: Batch, reason: string, password: string) {
    return this.run(batch, "unlocked", () =>
      answer(
        api.POST("/api/batches/{batch}/unlock", {
          params: { path: { batch: batch.id } },
          body: { reason, ...(password ? { password } : {}) },
        }),
      ),
    );
  }
}

export const reviewing = new Reviewing();
