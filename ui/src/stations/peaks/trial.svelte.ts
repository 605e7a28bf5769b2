// Trying other settings or edits before they are kept: one request in flight, the newest waiting, stale answers dropped.
import { inChannel } from "../../state/channel";
import { answer, api, Problem, type Edit, type Injected, type Settings } from "../../api/client";

export type Moved = { moved: number; gone: number; new: number };
type Asked = { batch: string; injection: string; channel: string; beside?: string; settings: Settings; edits: Edit[] | null };

class Trial {
  /** What the tried settings give for the injection; null when nothing is tried. */
  injected = $state<Injected | null>(null);
  /** What they give for the injection beside it, where there is one. */
  beside = $state<Injected | null>(null);
  /** What they change over the batch; null until that is counted. */
  whole = $state<Moved | null>(null);
  trouble = $state("");
  private inFlight = false;
  private waiting: Asked | null = null;
  private generation = 0;
  private rest: ReturnType<typeof setTimeout> | undefined;

  try(asked: Asked) {
    this.whole = null;
    clearTimeout(this.rest);
    if (this.inFlight) {
      this.waiting = asked;
      return;
    }
    void this.run(asked);
  }

  stop() {
    this.generation++;
    this.waiting = null;
    this.injected = null;
    this.beside = null;
    this.whole = null;
    this.trouble = "";
    clearTimeout(this.rest);
  }

  private send(asked: Asked, whole: boolean) {
    const body = {
      injection_id: asked.injection,
      channel: asked.channel,
      beside_id: asked.beside,
      settings: asked.settings,
      edits: asked.edits,
      whole,
    };
    return answer(api.POST("/api/batches/{batch}/preview", { params: { path: { batch: asked.batch } }, body }));
  }

  private async run(asked: Asked) {
    this.inFlight = true;
    const mine = this.generation;
    try {
      // Edits change one injection only, so the rest of the batch comes from the cache and amounts can follow at once.
      const got = await this.send(asked, asked.edits !== null);
      if (mine === this.generation) {
        this.injected = inChannel(got.injection, asked.channel);
        this.beside = got.beside ? inChannel(got.beside, asked.channel) : null;
        this.trouble = "";
      }
    } catch (error) {
      if (mine === this.generation && error instanceof Problem) this.trouble = error.message;
    } finally {
      this.inFlight = false;
    }
    const next = this.waiting;
    this.waiting = null;
    if (mine !== this.generation) {
      if (next) void this.run(next);
      return;
    }
    if (next) void this.run(next);
    else this.rest = setTimeout(() => void this.count(asked, mine), 250);
  }

  private async count(asked: Asked, mine: number) {
    try {
      const got = await this.send(asked, true);
      if (mine === this.generation && !this.inFlight && !this.waiting) this.whole = got.batch;
    } catch (error) {
      if (mine === this.generation && error instanceof Problem) this.trouble = error.message;
    }
  }
}

export const trial = new Trial();
