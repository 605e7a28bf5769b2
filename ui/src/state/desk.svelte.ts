// The desk: the batch that lies open, read from the server, and everything that can be done to it.
import {
  answer,
  api,
  Problem,
  type Batch,
  type ChannelAsked,
  type Choices,
  type Edit,
  type EntryChange,
  type Injection,
  type Job,
  type Method,
  type LookingView,
  type OwnColumn,
  type ScreenDecision,
  type View,
  type WholeWayAsk,
} from "../api/client";
import { queries } from "./ask";
import { count, signed } from "../look/number";
import { putBack, settled } from "./held";
import { who } from "./who.svelte";
import { place } from "./place.svelte";
import { reason } from "./reason.svelte";
import { underway } from "./underway.svelte";

type To = { path: { batch: string }; header: { "If-Match": string } };

class Desk {
  /** What went wrong last, as a sentence; empty when nothing did. */
  trouble = $state("");
  /** What was done last, for the foot. */
  done = $state("");
  busy = $state(false);

  private view(): View | undefined {
    return queries.getQueryData(["batch", place.batch]);
  }

  /** The last change asked for; the next one waits for it. */
  private last: Promise<unknown> = Promise.resolve();

  /**
   * Runs a change once those before it are through, so that a quick hand never meets its own change as somebody else's. The change
   * is of the batch as it then stands, unless what it was made from (its ground) is no longer the same: then of the batch as it was,
   * and the server refuses it. Keeps what the server answers, and turns an error into trouble. True when it was done.
   */
  private change(what: string, request: (to: To) => Promise<View>, ground: (view: View) => unknown = () => null): Promise<boolean> {
    const batch = place.batch;
    const held = (): View | undefined => queries.getQueryData(["batch", batch]);
    const before = held();
    const run = async () => {
      await who.sure();
      const now = held();
      const same = before && now && JSON.stringify(ground(before)) === JSON.stringify(ground(now));
      const revision = (same ? now : before)?.batch.revision;
      return this.send(what, () => request({ path: { batch }, header: { "If-Match": revision ? `"${revision}"` : "*" } }));
    };
    const turn = this.last.then(run, run);
    this.last = turn;
    return turn;
  }

  private async send(what: string, request: () => Promise<View>): Promise<boolean> {
    this.busy = true;
    try {
      const view = await request();
      queries.setQueryData(["batch", view.batch.id], view);
      this.trouble = "";
      this.done = what;
      settled();
      return true;
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      if (error.pointer === "/reason" && error.status === 422 && !this.wanted) {
        this.wanted = error.message;
        return false;
      }
      this.trouble = error.message;
      putBack(error.message);
      if (error.status === 412) await this.reread();
      return false;
    } finally {
      this.busy = false;
    }
  }

  /** Reads the batch again, because someone else, another window or an import has changed it. */
  async reread() {
    await queries.invalidateQueries({ queryKey: ["batch", place.batch] });
  }

  constructor() {
    reason.of = () => ({ batch: place.batch, reported: this.view()?.batch.reported ?? false });
  }

  /**
   * A change for which no reason is asked beforehand. The server wants one where the batch has been reported and the change moves what is displayed: then it
   * is asked for, with what would move. False when it was put away.
   */
  private async plain(
    what: string,
    done: string,
    request: (to: To, reason: string) => Promise<View>,
    ground?: (view: View) => unknown,
  ): Promise<boolean> {
    const batch = place.batch;
    this.wanted = "";
    if (await this.change(done, (to) => request(to, ""), ground)) return true;
    if (!this.wanted) return false;
    const because = await reason.ask(what, this.wanted, true);
    if (because === null || place.batch !== batch) return false;
    return this.change(done, (to) => request(to, because), ground);
  }

  /** Why the server wants a reason for the last change; empty where it does not. */
  private wanted = "";

  setEntries(changes: EntryChange[]) {
    const one = changes.length === 1;
    return this.plain(
      one ? `${changes[0]!.field} becomes ${changes[0]!.value || "empty"}` : `${changes.length} fields of the run list`,
      one ? "1 field set" : `${changes.length} fields set`,
      (params, reason) => answer(api.PATCH("/api/batches/{batch}/entries", { params, body: { changes, reason } })),
    );
  }

  move(injection: string, position: number) {
    return this.plain("Another run order", "run order changed", (params, reason) =>
      answer(api.POST("/api/batches/{batch}/order", { params, body: { injection_id: injection, position, reason } })),
    );
  }

  /** Takes an injection out. Where others stand on it, what that does to them is said, and a reason offered. */
  async remove(injection: string) {
    const batch = place.batch;
    const inj = this.view()?.batch.injections.find((i) => i.id === injection);
    const names = new Map(this.view()?.batch.version.method.compounds.map((c) => [c.id, c.name]));
    const does = await answer(
      api.POST("/api/batches/{batch}/removals/look", { params: { path: { batch } }, body: { injection_id: injection } }),
    ).catch(() => undefined);
    let why = "";
    if (does && (does.curves > 0 || does.moved > 0 || does.lost > 0)) {
      const most = does.most ? `, ${names.get(does.most.compound_id)} in ${does.most.name} most, by ${signed(does.most.percent, 1)} %` : "";
      const said = [
        does.curves > 0 && `${count(does.curves, "curve")} change`,
        does.moved > 0 && `${count(does.moved, "mean")} of samples move${most}`,
        does.lost > 0 && `${count(does.lost, "mean")} of samples can no longer be read`,
      ].filter(Boolean);
      const given = await reason.ask(`Remove ${inj?.name ?? "the injection"}`, `${said.join("; ")}.`);
      if (given === null || place.batch !== batch) return false;
      why = given;
    }
    return this.plain("Remove the injection", "injection removed", (params, reason) =>
      answer(api.POST("/api/batches/{batch}/removals", { params, body: { injection_id: injection, reason: reason || why } })),
    );
  }

  saveMethod(method: Method, reason: string) {
    return this.change(
      "method version saved",
      (params) => answer(api.PUT("/api/batches/{batch}/method", { params, body: { method, reason } })),
      (view) => view.batch.version.id,
    );
  }

  /** Takes the version that the batch was processed with once more. */
  takeProcessed(job: string, number: number) {
    return this.plain(
      `Take version ${number}`,
      `version ${number} is taken`,
      (params, reason) => answer(api.POST("/api/jobs/{job}/take", { params: { path: { job }, header: params.header }, body: { reason } })),
      (view) => view.batch.revision,
    );
  }

  /** Processes another signal in every injection that has it. */
  chooseSignal(name: string, unit: string) {
    return this.plain(`Process ${name}`, `${name} is processed`, (params, reason) =>
      answer(api.PUT("/api/batches/{batch}/signal", { params, body: { name, unit, reason } })),
    );
  }

  /** Lets the lines of a run list wait for files that have not come; "" lets none wait. */
  async waitFor(text: string): Promise<boolean> {
    const batch = place.batch;
    await who.sure();
    try {
      await answer(api.PUT("/api/batches/{batch}/waiting", { params: { path: { batch } }, body: { text } }));
      await queries.invalidateQueries({ queryKey: ["waiting", batch] });
      this.trouble = "";
      return true;
    } catch (error) {
      this.trouble = (error as Error).message;
      return false;
    }
  }

  /** Makes the files of one injection further files of another. */
  join(injection: string, other: string) {
    return this.change("files joined", (params) =>
      answer(api.POST("/api/batches/{batch}/joins", { params, body: { injection_id: injection, other_id: other } })),
    );
  }

  /** Makes a further file of an injection an injection of its own. */
  part(injection: string, hash: string) {
    return this.change("a file parted", (params) =>
      answer(api.POST("/api/batches/{batch}/parts", { params, body: { injection_id: injection, raw_hash: hash } })),
    );
  }

  /** Keeps a way of looking with the study. */
  async keepView(name: string, view: LookingView): Promise<boolean> {
    const batch = place.batch;
    try {
      queries.setQueryData(
        ["views", batch],
        await answer(api.POST("/api/batches/{batch}/views", { params: { path: { batch } }, body: { name, view } })),
      );
      return true;
    } catch (error) {
      this.trouble = (error as Error).message;
      return false;
    }
  }

  async dropView(view: string) {
    const batch = place.batch;
    try {
      queries.setQueryData(
        ["views", batch],
        await answer(api.DELETE("/api/batches/{batch}/views/{view}", { params: { path: { batch, view } } })),
      );
    } catch (error) {
      this.trouble = (error as Error).message;
    }
  }

  /** Says which columns the study adds to its run lists. */
  setColumns(columns: OwnColumn[]) {
    return this.change("columns set", (params) => answer(api.PUT("/api/batches/{batch}/columns", { params, body: { columns } })));
  }

  /** Processes one more signal, as a channel of its own. */
  addChannel(asked: ChannelAsked) {
    return this.change("channel added", (params) => answer(api.POST("/api/batches/{batch}/channels", { params, body: asked })));
  }

  removeChannel(channel: string) {
    return this.change("channel left out", (params) =>
      answer(api.DELETE("/api/batches/{batch}/channels/{channel}", { params: { ...params, path: { ...params.path, channel } } })),
    );
  }

  /** What was drawn of a signal that is not processed any more is read anew. */
  forgetTraces(batch: string) {
    void queries.invalidateQueries({ queryKey: ["trace", batch] });
    void queries.invalidateQueries({ queryKey: ["ridges", batch] });
  }

  /** Keeps what is proposed of a small batch: the keys, or all that stands without doubt. */
  keepWay(said: WholeWayAsk, keys: string[]) {
    return this.change(
      "proposals kept",
      (params) => answer(api.POST("/api/batches/{batch}/whole-way", { params, body: { ask: said, keys } })),
      (view) => view.batch.revision,
    );
  }

  saveChoices(choices: Choices, reason: string) {
    return this.change(
      "curve changed",
      (params) => answer(api.PUT("/api/batches/{batch}/choices", { params, body: { choices, reason } })),
      (view) => view.batch.choices,
    );
  }

  /** Says that compounds are present in samples, or not; all of it or nothing. */
  decide(decisions: ScreenDecision[], what: string) {
    return this.change(
      what,
      (params) => answer(api.POST("/api/batches/{batch}/screening", { params, body: { decisions } })),
      (view) => view.batch.choices,
    );
  }

  /** Makes a resolved component a compound of the method. */
  nameComponent(stretch: number, component: number, name: string) {
    return this.change(`${name} is a compound of the method`, (params) =>
      answer(api.POST("/api/batches/{batch}/resolving/names", { params, body: { stretch, component, name } })),
    );
  }

  /** Reads the batch from the curves of another one; "" goes back to standards of its own. */
  useEarlier(from: string, reason: string) {
    return this.change("calibration changed", (params) =>
      answer(api.PUT("/api/batches/{batch}/earlier", { params, body: { batch_id: from, reason } })),
    );
  }

  addEdit(injection: string, edit: Edit, reason: string) {
    return this.change("edit kept", (params) =>
      answer(api.POST("/api/batches/{batch}/edits", { params, body: { injection_id: injection, edit, reason } })),
    );
  }

  takeBack(injection: string, index: number) {
    return this.plain(
      index < 0 ? "Lift all edits" : "Take the edit back",
      index < 0 ? "all edits lifted" : "edit taken back",
      (params, reason) =>
        answer(api.POST("/api/batches/{batch}/edits/take-back", { params, body: { injection_id: injection, index, reason } })),
      (view) => view.batch.injections.find((i) => i.id === injection)?.edits,
    );
  }

  settle(keys: string[], reason: string) {
    return this.change(keys.length === 1 ? "notice settled" : `${keys.length} notices settled`, (params) =>
      answer(api.POST("/api/batches/{batch}/settled", { params, body: { keys, reason } })),
    );
  }

  undo() {
    return this.step("undone", "undo");
  }

  redo() {
    return this.step("done again", "redo");
  }

  /** What there is to undo shows only once the changes before are through. */
  private async step(done: string, way: "undo" | "redo"): Promise<boolean> {
    await this.last.catch(() => {});
    const what = this.view()?.history[way];
    if (!what) return false;
    return this.plain(`${way === "undo" ? "Undo" : "Redo"} ${what}`, `${done}: ${what}`, (params, reason) =>
      way === "undo"
        ? answer(api.POST("/api/batches/{batch}/undo", { params, body: { reason } }))
        : answer(api.POST("/api/batches/{batch}/redo", { params, body: { reason } })),
    );
  }
}

export const desk = new Desk();

/** The levels of the standards of a batch, in ascending order. */
export const levelsOf = (batch: Batch | undefined): number[] =>
  [...new Set((batch?.injections ?? []).flatMap((i) => (i.role === "standard" && i.level !== null ? [i.level] : [])))].sort(
    (a, b) => a - b,
  );

/** The id of an injection that has a trace; "" for one whose reading was typed. */
export const traced = (i: Injection | undefined): string => (i && !i.typed ? i.id : "");

/** "1 of 2" for an injection that shares name and role with others, else "". */
export const replicate = (batch: Batch, index: number): string => batch.replicates[index] ?? "";

type Changed = { batch_id: string; revision: number };

/** What one window tells the others: a batch that has changed, a job, or, with null, that news may have been missed. */
type News = Changed | { job: Job } | null;

/**
 * Tells the desk of changes made elsewhere. Returns what ends it. A browser opens only a few connections to one server, so of all
 * windows one listens and tells the others.
 */
export function watchBatch(): () => void {
  /**
   * Many changes in a row, as when files come in, are read together: the first at once, the others at most every so often, and the longer reading and
   * drawing takes the more seldom, so that it never takes more than a small part of the time.
   */
  const leastPause = 1200;
  const share = 25;
  const due = new Map<string, number>(); // the newest revision heard of, of batches that have just been read
  // The shelf is read again too, where it is looked at: what it says of a batch may be another.
  let shelf: ReturnType<typeof setTimeout> | undefined;
  const readShelf = () => {
    shelf ??= setTimeout(() => {
      shelf = undefined;
      for (const key of ["studies", "notices"]) void queries.invalidateQueries({ queryKey: [key] });
    }, 2000);
  };
  const heard = ({ batch_id, revision }: Changed) => {
    readShelf();
    const first = !due.has(batch_id);
    due.set(batch_id, revision);
    if (first) void look(batch_id);
  };
  const look = async (batch: string) => {
    const held = (): number => queries.getQueryData<View>(["batch", batch])?.batch.revision ?? Infinity;
    const to = due.get(batch)!;
    const began = performance.now();
    if (held() < to) {
      await queries.invalidateQueries({ queryKey: ["batch", batch] });
      await new Promise((drawn) => setTimeout(drawn));
    }
    setTimeout(
      () => {
        if (due.get(batch)! > held()) void look(batch);
        else due.delete(batch);
      },
      Math.max(leastPause, share * (performance.now() - began)),
    );
  };
  const windows = new BroadcastChannel("yugen-events");
  const hear = (news: News) => {
    if (!news) {
      void queries.invalidateQueries({ queryKey: ["batch"] });
      void underway.read();
    } else if ("job" in news) {
      underway.hear(news.job);
      if (news.job.ended !== null) readShelf();
    } else heard(news);
  };
  windows.onmessage = (message: MessageEvent<News>) => hear(message.data);
  const ended = new AbortController();
  const leave = () => ended.abort();
  addEventListener("pagehide", leave, { signal: ended.signal });
  addEventListener("pageshow", (e) => e.persisted && location.reload(), { signal: ended.signal });
  navigator.locks
    .request("yugen-events", { signal: ended.signal }, () => {
      const events = new EventSource("/api/events");
      // What happened while the line was down was not told: everything that is shown is read again.
      let lost = false;
      events.onerror = () => (lost = true);
      events.onopen = () => {
        if (!lost) return;
        lost = false;
        hear(null);
        windows.postMessage(null);
      };
      events.addEventListener("job", (message) => {
        const job = JSON.parse(message.data) as Job;
        hear({ job });
        windows.postMessage({ job } satisfies News);
      });
      events.onmessage = (message) => {
        const changed = JSON.parse(message.data) as Changed;
        hear(changed);
        windows.postMessage(changed);
      };
      return new Promise<void>((resolve) =>
        ended.signal.addEventListener("abort", () => {
          events.close();
          resolve();
        }),
      );
    })
    .catch(() => {}); // the window closed while another was listening
  return () => {
    leave();
    windows.close();
  };
}
