// Files that were sent to be looked at: what they hold, which of them are taken in, and how texts are read. Nothing of them is kept until they are taken.
import { answer, api, lookAt, Problem, type Looked, type Profile } from "../../../api/client";
import { queries } from "../../../state/ask";
import { who } from "../../../state/who.svelte";
import { intake } from "../intake.svelte";

class Look {
  batch = $state("");
  files = $state.raw<Looked[]>([]);
  /** Names of files that are still on their way here. */
  coming = $state.raw<string[]>([]);
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
    this.coming = [...this.coming, ...files.map((f) => f.name)];
    const failed: string[] = [];
    // What has come is shown a few at a time, so that drawing a long list does not hold up the sending.
    let seen: Looked[] = [];
    let gone: string[] = [];
    const show = () => {
      if (batch === this.batch && seen.length > 0) this.files = [...this.files, ...seen];
      const left = [...this.coming];
      for (const name of gone) left.splice(left.indexOf(name), 1);
      this.coming = left;
      seen = [];
      gone = [];
    };
    const showing = setInterval(show, 400);
    const next = async (): Promise<void> => {
      const file = files.shift();
      if (!file) return;
      try {
        seen.push(await lookAt(batch, file));
      } catch (error) {
        failed.push(`${file.name}: ${error instanceof Problem ? error.message : "it was not sent"}`);
      }
      gone.push(file.name);
      return next();
    };
    await Promise.all([next(), next(), next()]);
    clearInterval(showing);
    show();
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
    const results = this.results;
    this.results = ""; // the batch may be told to be another before this has answered, and what was looked at is then gone
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
      this.results = results;
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
