// Files on their way in: they are sent one by one, in the order of their names, and taken in by the server meanwhile. One bad file never stops the others.
import { answer, api, sendFile, type Arrived } from "../../api/client";
import { desk } from "../../state/desk.svelte";
import { underway } from "../../state/underway.svelte";

export type Coming = {
  id: string;
  name: string;
  size: number;
  status: "waiting" | "sending" | Arrived["status"];
  message: string;
  unsupported?: boolean;
  /** Of a file that was looked at before: heights from 0 to 1. */
  silhouette?: Float32Array;
  /** The injection that it has become, or belongs to. */
  injection?: string;
};

const onItsWay = (f: Coming) => f.status === "waiting" || f.status === "sending" || f.status === "coming";

/** How often the server is asked what has become of the files, in ms. */
const asking = 400;

class Intake {
  files = $state<Coming[]>([]);
  private queue: { file: File; batch: string; at: number }[] = [];
  /** When the taking in began, ms, and what had ended then. */
  private began = { at: 0, ended: 0 };
  private now = $state(0);

  get ended(): number {
    return this.files.filter((f) => !onItsWay(f)).length;
  }

  /** How many files come in each second; undefined until that can be said. */
  get perS(): number | undefined {
    const s = (this.now - this.began.at) / 1000;
    const n = this.ended - this.began.ended;
    return s > 1 && n > 0 ? n / s : undefined;
  }

  get leftS(): number | undefined {
    const rate = this.perS;
    return rate && (this.files.length - this.ended) / rate;
  }

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
  follow(batch: string, told: Arrived[], looked: { id: string; size: number; silhouette: number[] }[]) {
    if (!this.running) this.files = [];
    const seen = new Map(looked.map((f) => [f.id, f]));
    for (const t of told)
      this.files.push({
        id: t.id,
        name: t.file,
        size: seen.get(t.id)?.size ?? 0,
        silhouette: Float32Array.from(seen.get(t.id)?.silhouette ?? []),
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
    this.now = Date.now();
    this.began = { at: this.now, ended: this.ended };
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
    entry.injection = told.injection_id;
    if (told.status === "stopped") this.giveUp();
  }

  /** Somebody stopped the taking in: what is not yet sent stays at home. */
  private giveUp() {
    for (const next of this.queue.splice(0)) this.files[next.at]!.status = "stopped";
  }

  /** Lets what is being read end, and takes nothing more in. */
  async stop() {
    this.giveUp();
    for (const job of underway.live) if (job.kind === "files" && this.followed.has(job.batch_id ?? "")) await underway.ask(job, "stop");
  }

  private async look(batches: Set<string>) {
    this.now = Date.now();
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
