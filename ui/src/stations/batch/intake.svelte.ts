// Files on their way in: one request a file, each with its own outcome. One bad file never stops the others.
import { sendFile, type Outcome } from "../../api/client";
import { desk } from "../../state/desk.svelte";

export type Coming = { name: string; size: number; status: "waiting" | "sending" | Outcome["status"]; message: string };

class Intake {
  files = $state<Coming[]>([]);
  private queue: { file: File; batch: string; at: number }[] = [];
  /** While files come in nothing is computed: a result of half a batch is nothing to anyone. */
  running = $state(false);

  get done() {
    return this.files.filter((f) => f.status !== "waiting" && f.status !== "sending").length;
  }

  add(batch: string, list: Iterable<File>) {
    for (const file of [...list].sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }))) {
      this.queue.push({ file, batch, at: this.files.length });
      this.files.push({ name: file.name, size: file.size, status: "waiting", message: "" });
    }
    void this.run();
  }

  private async run() {
    if (this.running) return;
    this.running = true;
    for (let next = this.queue.shift(); next; next = this.queue.shift()) {
      const entry = this.files[next.at]!;
      entry.status = "sending";
      const outcome = await sendFile(next.batch, next.file);
      entry.status = outcome.status;
      entry.message = outcome.message ?? "";
    }
    this.running = false;
    await desk.reread();
  }

  /** Forgets what has ended. */
  clear() {
    if (!this.running) this.files = [];
  }
}

export const intake = new Intake();
