// Files that were sent to be looked at: what they hold, which of them are taken in, and how texts are read. Nothing of them is kept until they are taken.
import { answer, api, lookAt, Problem, type Looked, type Profile } from "../../../api/client";
import { queries } from "../../../state/ask";
import { who } from "../../../state/who.svelte";
import { intake } from "../intake.svelte";

class Look {
  batch = $state("");
  files = $state<Looked[]>([]);
  /** Names of files that are still on their way here. */
  coming = $state<string[]>([]);
  /** Those that a person leaves out, and those that stay injections of their own. */
  out = $state<string[]>([]);
  apart = $state<string[]>([]);
  profiles = $state<Record<string, Profile>>({});
  trouble = $state("");
  /** The file whose results are looked at; "" for none. */
  results = $state("");
  /** The text that is acted on; "" for none. */
  text = $state("");

  /** What was left to be looked at in a batch, by this window or another. */
  async open(batch: string) {
    if (this.batch !== batch) this.clear(batch);
    await this.reread();
  }

  private clear(batch: string) {
    this.batch = batch;
    this.files = [];
    this.out = this.apart = [];
    this.profiles = {};
    this.text = this.results = this.trouble = "";
  }

  async reread() {
    const batch = this.batch;
    if (!batch) return;
    const list = await answer(api.GET("/api/batches/{batch}/looks", { params: { path: { batch } } })).catch(() => undefined);
    if (list && batch === this.batch) this.files = list;
  }

  /** Sends files to be looked at, a few at a time; what cannot be sent says so and does not stop the others. */
  async add(batch: string, list: Iterable<File>) {
    const files = [...list].sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }));
    if (files.length === 0) return;
    if (this.batch !== batch) this.clear(batch);
    await who.sure();
    this.trouble = "";
    this.coming.push(...files.map((f) => f.name));
    const failed: string[] = [];
    const next = async (): Promise<void> => {
      const file = files.shift();
      if (!file) return;
      try {
        const seen = await lookAt(batch, file);
        if (batch === this.batch) this.files = [...this.files, seen];
      } catch (error) {
        failed.push(`${file.name}: ${error instanceof Problem ? error.message : "it was not sent"}`);
      }
      this.coming.splice(this.coming.indexOf(file.name), 1);
      return next();
    };
    await Promise.all([next(), next(), next()]);
    if (failed.length > 0)
      this.trouble = `Not sent: ${failed.slice(0, 3).join(" ")}${failed.length > 3 ? ` and ${failed.length - 3} more.` : ""}`;
    await this.reread();
  }

  get taken(): Looked[] {
    return this.files.filter((f) => f.status === "coming" && !this.out.includes(f.id));
  }

  toggle(id: string) {
    this.out = this.out.includes(id) ? this.out.filter((o) => o !== id) : [...this.out, id];
  }

  part(id: string) {
    this.apart = this.apart.includes(id) ? this.apart.filter((o) => o !== id) : [...this.apart, id];
  }

  async take() {
    const batch = this.batch;
    const ids = this.taken.map((f) => f.id);
    if (ids.length === 0) return;
    try {
      const told = await answer(
        api.POST("/api/batches/{batch}/looks/take", {
          params: { path: { batch } },
          body: { ids, apart: this.apart, profiles: $state.snapshot(this.profiles) },
        }),
      );
      intake.follow(batch, told, this.files);
      await this.putBack(); // what was left out or refused
    } catch (error) {
      this.trouble = error instanceof Problem ? error.message : "They could not be taken in.";
    }
  }

  /** Puts everything back: nothing was kept. */
  async putBack() {
    const batch = this.batch;
    if (await this.away([])) this.clear(batch);
  }

  async leaveOut(id: string) {
    const list = await this.away([id]);
    if (list) this.files = list;
  }

  private async away(ids: string[]): Promise<Looked[] | undefined> {
    try {
      return await answer(api.POST("/api/batches/{batch}/looks/put-back", { params: { path: { batch: this.batch } }, body: { ids } }));
    } catch (error) {
      this.trouble = `They could not be put back. ${(error as Error).message}`;
      return undefined;
    }
  }

  async keepProfile(profile: Profile) {
    const batch = this.batch;
    await who.sure();
    const kept = await answer(api.POST("/api/batches/{batch}/profiles", { params: { path: { batch } }, body: { profile } }));
    queries.setQueryData(["profiles", batch], kept);
    await this.reread();
  }
}

export const look = new Look();
