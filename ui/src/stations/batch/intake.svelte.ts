// Files on their way in: they are sent one by one, in the order of their names, and taken in by the server meanwhile. One bad file never stops the others.
import { answer, api, sendFile, type Arrived } from "../../api/client";
import { desk } from "../../state/desk.svelte";

export type Coming = {
  id: string;
  name: string;
  size: number;
  status: "waiting" | "sending" | Arrived["status"];
  message: string;
  unsupported?: boolean;
};

/** How often the server is asked what has become of the files, in ms. */
const asking = 400;

class Intake {
  files = $state<Coming[]>([]);
  private queue: { file: File; batch: string; at: number }[] = [];
  /** While files come in nothing is computed: a result of half a batch is nothing to anyone. */
  running = $state(false);

  add(batch: string, list: Iterable<File>) {
    for (const file of [...list].sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }))) {
      this.queue.push({ file, batch, at: this.files.length });
      this.files.push({ id: "", name: file.name, size: file.size, status: "waiting", message: "" });
    }
    void this.run();
  }

  /** Follows files that were looked at and taken: they are there already, and wait to be taken in. */
  follow(batch: string, told: Arrived[], sizes: Map<string, number>) {
    for (const t of told)
      this.files.push({
        id: t.id,
        name: t.file,
        size: sizes.get(t.id) ?? 0,
        status: t.status,
        message: t.message ?? "",
        unsupported: t.unsupported,
      });
    this.followed.add(batch);
    void this.run();
  }
  private followed = new Set<string>();

  private async run() {
    if (this.running) return;
    this.running = true;
    const batches = this.followed;
    const looking = setInterval(() => void this.look(batches), asking);
    for (let next = this.queue.shift(); next; next = this.queue.shift()) {
      batches.add(next.batch);
      this.files[next.at]!.status = "sending";
      this.take(this.files[next.at]!, await sendFile(next.batch, next.file));
    }
    clearInterval(looking);
    while (this.files.some((f) => f.status === "coming")) {
      await this.look(batches);
      if (this.files.some((f) => f.status === "coming")) await new Promise((wake) => setTimeout(wake, asking));
    }
    this.running = false;
    this.followed = new Set();
    await desk.reread();
  }

  private take(entry: Coming, told: Arrived) {
    entry.id = told.id;
    entry.status = told.status;
    entry.message = told.message ?? "";
    entry.unsupported = told.unsupported;
    if (told.status === "stopped") this.giveUp();
  }

  /** Somebody stopped the taking in: what is not yet sent stays at home. */
  private giveUp() {
    for (const next of this.queue.splice(0)) this.files[next.at]!.status = "stopped";
  }

  private async look(batches: Set<string>) {
    for (const batch of batches) {
      const told = await answer(api.GET("/api/batches/{batch}/arrivals", { params: { path: { batch } } })).catch(() => undefined);
      if (!told) continue; // the server may come back
      const known = new Map(told.map((t) => [t.id, t]));
      for (const entry of this.files) {
        if (entry.status !== "coming") continue;
        const now = known.get(entry.id);
        if (now) this.take(entry, now);
        // A server that was started anew has taken in what had arrived, and knows no more of it.
        else this.take(entry, { id: entry.id, file: entry.name, status: "added", message: "" });
      }
    }
  }

  /** Forgets what has ended. */
  clear() {
    if (!this.running) this.files = [];
  }
}

export const intake = new Intake();
