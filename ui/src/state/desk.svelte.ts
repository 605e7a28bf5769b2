// The desk: the batch that lies open, read from the server, and everything that can be done to it.
import { QueryClient } from "@tanstack/svelte-query";
import {
  type CurveTrial,
  answer,
  api,
  fetchTrace,
  Problem,
  type Batch,
  type Edit,
  type EntryChange,
  type Method,
  type View,
} from "../api/client";
import { place } from "./place.svelte";

export const queries = new QueryClient({
  defaultOptions: { queries: { staleTime: Infinity, retry: 1, refetchOnWindowFocus: false } },
});

export const ask = {
  studies: () => ({ queryKey: ["studies"], queryFn: () => answer(api.GET("/api/studies")) }),
  batch: (batch: string) => ({
    queryKey: ["batch", batch],
    enabled: batch !== "",
    queryFn: () => answer(api.GET("/api/batches/{batch}", { params: { path: { batch } } })),
  }),
  result: (batch: string, revision: number) => ({
    queryKey: ["result", batch, revision],
    enabled: revision > 0,
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/result", { params: { path: { batch } } })),
  }),
  ridges: (batch: string, injections: number, version: string) => ({
    queryKey: ["ridges", batch, injections, version],
    enabled: injections > 0,
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/ridges", { params: { path: { batch } } })),
  }),
  trace: (batch: string, injection: string, fromMin?: number, toMin?: number) => ({
    queryKey: ["trace", batch, injection, fromMin, toMin],
    enabled: injection !== "",
    queryFn: ({ signal }: { signal: AbortSignal }) =>
      fetchTrace(
        batch,
        injection,
        {
          fromS: fromMin === undefined ? undefined : fromMin * 60,
          toS: toMin === undefined ? undefined : toMin * 60,
          columns: 6000,
        },
        signal,
      ),
  }),
  working: (batch: string, revision: number, injection: string, compound: string) => ({
    queryKey: ["working", batch, revision, injection, compound],
    enabled: injection !== "" && compound !== "",
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/working", { params: { path: { batch }, query: { injection, compound } } })),
  }),
  peaks: (batch: string, revision: number, injection: string) => ({
    queryKey: ["peaks", batch, revision, injection],
    queryFn: () => answer(api.GET("/api/batches/{batch}/injections/{injection}/peaks", { params: { path: { batch, injection } } })),
  }),
  limits: (batch: string, revision: number) => ({
    queryKey: ["limits", batch, revision],
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/limits", { params: { path: { batch } } })),
  }),
  versions: (batch: string, revision: number) => ({
    queryKey: ["versions", batch, revision],
    queryFn: () => answer(api.GET("/api/batches/{batch}/versions", { params: { path: { batch } } })),
  }),
  tryCurve: (batch: string, revision: number, body: CurveTrial) => ({
    queryKey: ["curve", batch, revision, JSON.stringify(body)],
    queryFn: () => answer(api.POST("/api/batches/{batch}/curve-trials", { params: { path: { batch } }, body })),
  }),
  since: (batch: string, revision: number, version: string) => ({
    queryKey: ["since", batch, revision, version],
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/since", { params: { path: { batch }, query: { version } } })),
  }),
  control: (batch: string, revision: number, compound: string) => ({
    queryKey: ["control", batch, revision, compound],
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/control", { params: { path: { batch }, query: { compound } } })),
  }),
  record: (batch: string, revision: number) => ({
    queryKey: ["record", batch, revision],
    queryFn: () => answer(api.GET("/api/batches/{batch}/record", { params: { path: { batch } } })),
  }),
  pages: (batch: string, revision: number, layout: string, injection: string) => ({
    queryKey: ["pages", batch, revision, layout, injection],
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/pages", { params: { path: { batch }, query: { layout, injection } } })),
  }),
  reports: (batch: string) => ({
    queryKey: ["reports", batch],
    queryFn: () => answer(api.GET("/api/batches/{batch}/reports", { params: { path: { batch } } })),
  }),
};

class Desk {
  /** What went wrong last, as a sentence; empty when nothing did. */
  trouble = $state("");
  /** What was done last, for the foot. */
  done = $state("");
  busy = $state(false);

  private view(): View | undefined {
    return queries.getQueryData(["batch", place.batch]);
  }

  private tag(): { "If-Match"?: string } {
    const revision = this.view()?.batch.revision;
    return revision ? { "If-Match": `"${revision}"` } : {};
  }

  /** Runs a change, keeps what the server answers, and turns an error into trouble. True when it was done. */
  private async change(what: string, request: () => Promise<View>): Promise<boolean> {
    this.busy = true;
    try {
      const view = await request();
      queries.setQueryData(["batch", view.batch.id], view);
      this.trouble = "";
      this.done = what;
      return true;
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      this.trouble = error.message;
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

  private params() {
    return { path: { batch: place.batch }, header: this.tag() };
  }

  setEntries(changes: EntryChange[]) {
    return this.change(`${changes.length === 1 ? "1 field" : `${changes.length} fields`} set`, () =>
      answer(api.PATCH("/api/batches/{batch}/entries", { params: this.params(), body: { changes } })),
    );
  }

  move(injection: string, position: number) {
    return this.change("run order changed", () =>
      answer(api.POST("/api/batches/{batch}/order", { params: this.params(), body: { injection_id: injection, position } })),
    );
  }

  remove(injection: string) {
    return this.change("injection removed", () =>
      answer(api.POST("/api/batches/{batch}/removals", { params: this.params(), body: { injection_id: injection } })),
    );
  }

  saveMethod(method: Method, reason: string) {
    return this.change("method version saved", () =>
      answer(api.PUT("/api/batches/{batch}/method", { params: this.params(), body: { method, reason } })),
    );
  }

  addEdit(injection: string, edit: Edit, reason: string) {
    return this.change("edit kept", () =>
      answer(
        api.POST("/api/batches/{batch}/edits", {
          params: this.params(),
          body: { injection_id: injection, edit, reason },
        }),
      ),
    );
  }

  takeBack(injection: string, index: number) {
    return this.change(index < 0 ? "returned to raw" : "edit taken back", () =>
      answer(
        api.POST("/api/batches/{batch}/edits/take-back", {
          params: this.params(),
          body: { injection_id: injection, index },
        }),
      ),
    );
  }

  settle(key: string, reason: string) {
    return this.change("notice settled", () =>
      answer(api.POST("/api/batches/{batch}/settled", { params: this.params(), body: { key, reason } })),
    );
  }

  undo() {
    const what = this.view()?.history.undo;
    if (!what) return Promise.resolve(false);
    return this.change(`undone: ${what}`, () => answer(api.POST("/api/batches/{batch}/undo", { params: this.params() })));
  }

  redo() {
    const what = this.view()?.history.redo;
    if (!what) return Promise.resolve(false);
    return this.change(`done again: ${what}`, () => answer(api.POST("/api/batches/{batch}/redo", { params: this.params() })));
  }
}

export const desk = new Desk();

/** "1 of 2" for an injection that shares name and role with others, else "". */
export function replicate(batch: Batch, index: number): string {
  const own = batch.injections[index];
  if (!own) return "";
  const same = batch.injections.filter((i) => i.name === own.name && i.role === own.role);
  return same.length < 2 ? "" : `${same.indexOf(own) + 1} of ${same.length}`;
}

type Changed = { batch_id: string; revision: number };

/**
 * Tells the desk of changes made elsewhere. Returns what ends it. A browser opens only a few connections to one server, so of all
 * windows one listens and tells the others.
 */
export function watchBatch(): () => void {
  const heard = ({ batch_id, revision }: Changed) => {
    const held: View | undefined = queries.getQueryData(["batch", batch_id]);
    if (held && held.batch.revision < revision) void queries.invalidateQueries({ queryKey: ["batch", batch_id] });
  };
  const windows = new BroadcastChannel("yugen-events");
  windows.onmessage = (message: MessageEvent<Changed>) => heard(message.data);
  const ended = new AbortController();
  const leave = () => ended.abort();
  addEventListener("pagehide", leave, { signal: ended.signal });
  addEventListener("pageshow", (e) => e.persisted && location.reload(), { signal: ended.signal });
  navigator.locks
    .request("yugen-events", { signal: ended.signal }, () => {
      const events = new EventSource("/api/events");
      events.onmessage = (message) => {
        const changed = JSON.parse(message.data) as Changed;
        heard(changed);
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
