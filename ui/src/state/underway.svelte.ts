// Work that takes its time, as the server tells of it.
import { place } from "./place.svelte";
import { answer, api, type AskedAgain, type Job } from "../api/client";

const live = (j: Job) => j.ended === null;

class Underway {
  jobs = $state<Job[]>([]);
  /** The batch whose files are seen coming in elsewhere on the screen. */
  seen = $state("");

  /** What is told at the foot of the window. */
  get told(): Job[] {
    return this.jobs.filter((j) => j.state === "failed" || ((j.kind !== "files" || j.batch_id !== this.seen) && j.id !== place.query.job));
  }

  /** What is still worked on, the oldest first. */
  get live(): Job[] {
    return this.jobs.filter(live);
  }

  /** Reads all of it anew: at the start, and after the line was down. */
  async read() {
    const list = await answer(api.GET("/api/jobs")).catch(() => undefined);
    if (list) this.jobs = list.filter(live);
  }

  /** Takes news of one job; one that has ended is forgotten, unless it failed: then it stays until it is put away. */
  hear(job: Job) {
    const others = this.jobs.filter((j) => j.id !== job.id);
    this.jobs = live(job) || job.state === "failed" ? [...others, job].sort((a, b) => a.since.localeCompare(b.since)) : others;
  }

  /** Stops a job, holds it, lets it go on, or puts it before others that wait; one that has ended meanwhile is left alone. */
  async ask(job: Job, what: "stop" | "pause" | "continue" | "first") {
    const params = { path: { job: job.id } };
    const list = await answer(api.POST(`/api/jobs/{job}/${what}`, { params })).catch(() => undefined);
    if (list) this.jobs = list.filter(live);
  }

  /** Begins to process a batch once more, and gives the job. */
  async again(batch: string, body: AskedAgain): Promise<Job> {
    const job = await answer(api.POST("/api/batches/{batch}/process", { params: { path: { batch } }, body }));
    await this.read(); // it may have ended before the answer came
    return job;
  }

  putAway(job: Job) {
    this.jobs = this.jobs.filter((j) => j.id !== job.id);
  }
}

export const underway = new Underway();

const what: Record<Job["kind"], string> = {
  files: "Taking in",
  effects: "Reckoning effects",
  results: "Computing",
  report: "Drawing the report of",
  reports: "Making",
  backup: "Backing up",
  check: "Checking",
  resolve: "Resolving",
  process: "Processing once more:",
};

/** "Computing Spring teas". */
export const about = (j: Job) => `${what[j.kind]} ${j.subject}`;

/** "12 s left", "3 min left"; "" while nobody can say. */
export function left(j: Job): string {
  if (j.state === "waiting") return "waits";
  if (j.state === "paused") return "paused";
  if (j.left_s === null) return "";
  if (j.left_s < 90) return `${Math.max(1, Math.ceil(j.left_s))} s left`;
  return `${Math.round(j.left_s / 60)} min left`;
}
