// What is asked of the server, each question with the key under which its answer is kept.
import { QueryClient } from "@tanstack/svelte-query";
import {
  type CurveTrial,
  answer,
  api,
  fetchTrace,
  type IdentifyAsked,
  type Layout,
  type Method,
  type Review,
  type MethodTrial,
  type SetAsked,
  type View,
  type WholeWayAsk,
} from "../api/client";
import { asked } from "../early";

export const queries = new QueryClient({
  defaultOptions: { queries: { staleTime: Infinity, retry: 1, refetchOnWindowFocus: false } },
});

export const ask = {
  troubles: (at: string) => ({ queryKey: ["troubles", at], queryFn: () => answer(api.GET("/api/bench-troubles")) }),
  jobChanges: (job: string, ended: boolean) => ({
    queryKey: ["job-changes", job],
    enabled: job !== "" && ended,
    staleTime: 0,
    queryFn: () => answer(api.GET("/api/jobs/{job}/changes", { params: { path: { job } } })),
  }),
  jobs: () => ({ queryKey: ["jobs"], staleTime: 0, queryFn: () => answer(api.GET("/api/jobs")) }),
  /** The instruments, asked again and again while somebody looks. */
  bench: (everyMs = 0) => ({
    queryKey: ["bench"],
    staleTime: 0,
    ...(everyMs ? { refetchInterval: everyMs, refetchIntervalInBackground: true } : {}),
    queryFn: () => answer(api.GET("/api/bench")),
  }),
  live: (id: string) => ({
    queryKey: ["bench", "live", id],
    enabled: id !== "",
    staleTime: 0,
    refetchInterval: 700,
    queryFn: () => answer(api.GET("/api/bench/{instrument}/live", { params: { path: { instrument: id } } })),
  }),
  people: () => ({ queryKey: ["people"], queryFn: () => answer(api.GET("/api/people")) }),
  settings: () => ({ queryKey: ["settings"], staleTime: 0, queryFn: () => answer(api.GET("/api/settings")) }),
  tokens: () => ({ queryKey: ["tokens"], queryFn: () => answer(api.GET("/api/tokens")) }),
  find: (text: string) => ({
    queryKey: ["find", text],
    enabled: text.trim() !== "",
    staleTime: 0,
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/find", { params: { query: { for: text.trim() } } })),
  }),
  studies: () => ({ queryKey: ["studies"], queryFn: () => answer(api.GET("/api/studies")) }),
  batch: (batch: string) => ({
    queryKey: ["batch", batch],
    enabled: batch !== "",
    queryFn: async () => (await asked<View>(batch)) ?? answer(api.GET("/api/batches/{batch}", { params: { path: { batch } } })),
  }),
  result: (batch: string, revision: number) => ({
    queryKey: ["result", batch, revision],
    enabled: revision > 0,
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/result", { params: { path: { batch } } })),
  }),
  /** What persons changed; asked again while effects are still being reckoned. */
  review: (batch: string, revision: number) => ({
    queryKey: ["review", batch, revision],
    enabled: revision > 0,
    placeholderData: <T>(before: T) => before,
    refetchInterval: (query: { state: { data?: Review | undefined } }) => (query.state.data?.reckoning ? 900 : false),
    queryFn: () => answer(api.GET("/api/batches/{batch}/review", { params: { path: { batch } } })),
  }),
  ridges: (batch: string, injections: number, version: string) => ({
    queryKey: ["ridges", batch, injections, version],
    enabled: injections > 0,
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/ridges", { params: { path: { batch } } })),
  }),
  /** The trace of a channel of the method. */
  trace: (batch: string, injection: string, channel: string) => ({
    queryKey: ["trace", batch, injection, channel],
    enabled: injection !== "",
    queryFn: ({ signal }: { signal: AbortSignal }) => fetchTrace(batch, injection, { columns: 6000, channel }, signal),
  }),
  /** The trace of a channel, treated for looking at it. */
  treated: (batch: string, revision: number, injection: string, channel: string, treatment: Record<string, string>) => ({
    queryKey: ["trace", batch, injection, channel, revision, JSON.stringify(treatment)],
    enabled: injection !== "",
    placeholderData: <T>(before: T) => before,
    queryFn: ({ signal }: { signal: AbortSignal }) => fetchTrace(batch, injection, { columns: 6000, channel, treatment }, signal),
  }),
  ions: (batch: string, injection: string, ions: string) => ({
    queryKey: ["ions", batch, injection, ions],
    enabled: injection !== "",
    placeholderData: <T>(before: T) => before,
    queryFn: ({ signal }: { signal: AbortSignal }) => fetchTrace(batch, injection, { columns: 6000, ions }, signal),
  }),
  identify: (batch: string, revision: number, injection: string, asked: IdentifyAsked | null) => ({
    queryKey: ["identify", batch, revision, injection, asked],
    enabled: asked !== null && injection !== "",
    placeholderData: <T>(before: T) => before,
    queryFn: () =>
      answer(api.POST("/api/batches/{batch}/injections/{injection}/identify", { params: { path: { batch, injection } }, body: asked! })),
  }),
  purity: (batch: string, revision: number, injection: string, channel: string, at: number | null) => ({
    queryKey: ["purity", batch, revision, injection, channel, at],
    enabled: at !== null && injection !== "",
    placeholderData: <T>(before: T) => before,
    queryFn: () =>
      answer(
        api.GET("/api/batches/{batch}/injections/{injection}/purity", {
          params: { path: { batch, injection }, query: { at: String(at), channel } },
        }),
      ),
  }),
  screening: (batch: string, revision: number) => ({
    queryKey: ["screening", batch, revision],
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/screening", { params: { path: { batch } } })),
  }),
  screenEvidence: (batch: string, revision: number, injection: string, compound: string) => ({
    queryKey: ["evidence", batch, revision, injection, compound],
    enabled: injection !== "" && compound !== "",
    placeholderData: <T>(before: T) => before,
    queryFn: () =>
      answer(
        api.GET("/api/batches/{batch}/injections/{injection}/screening", { params: { path: { batch, injection }, query: { compound } } }),
      ),
  }),
  spectraMap: (batch: string, injection: string) => ({
    queryKey: ["map", batch, injection],
    gcTime: 60_000,
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/injections/{injection}/map", { params: { path: { batch, injection } } })),
  }),
  resolving: (batch: string, revision: number, hits: number) => ({
    queryKey: ["resolving", batch, revision, hits],
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/resolving", { params: { path: { batch }, query: { hits: String(hits) } } })),
  }),
  secondOpinion: (batch: string, stretch: number, of: string) => ({
    queryKey: ["second opinion", batch, stretch, of],
    enabled: of !== "",
    retry: false,
    queryFn: () =>
      answer(api.GET("/api/batches/{batch}/resolving/second", { params: { path: { batch }, query: { stretch: String(stretch) } } })),
  }),
  resolvedStretch: (batch: string, revision: number, stretch: number) => ({
    queryKey: ["resolved stretch", batch, revision, stretch],
    enabled: stretch >= 0,
    placeholderData: <T>(before: T) => before,
    queryFn: () =>
      answer(api.GET("/api/batches/{batch}/resolving/stretch", { params: { path: { batch }, query: { stretch: String(stretch) } } })),
  }),
  profiles: (batch: string) => ({
    queryKey: ["profiles", batch],
    queryFn: () => answer(api.GET("/api/batches/{batch}/profiles", { params: { path: { batch } } })),
  }),
  ionLists: (batch: string) => ({
    queryKey: ["ion lists", batch],
    queryFn: () => answer(api.GET("/api/batches/{batch}/ions", { params: { path: { batch } } })),
  }),
  ladderCheck: (ladder: Method["ladder"], apexes: number[]) => ({
    queryKey: ["ladder check", JSON.stringify(ladder), JSON.stringify(apexes)],
    enabled: !!ladder,
    queryFn: () => answer(api.POST("/api/ladders/check", { body: { ladder: ladder!, apexes_min: apexes } })),
  }),
  ladders: (batch: string) => ({
    queryKey: ["ladders", batch],
    queryFn: () => answer(api.GET("/api/batches/{batch}/ladders", { params: { path: { batch } } })),
  }),
  libraries: () => ({ queryKey: ["libraries"], queryFn: () => answer(api.GET("/api/libraries")) }),
  spectrum: (batch: string, injection: string, atMin: number | null) => ({
    queryKey: ["spectrum", batch, injection, atMin],
    enabled: atMin !== null,
    placeholderData: <T>(before: T) => before,
    queryFn: () =>
      answer(
        api.GET("/api/batches/{batch}/injections/{injection}/spectrum", {
          params: { path: { batch, injection }, query: { at_min: String(atMin) } },
        }),
      ),
  }),
  waiting: (batch: string, revision: number) => ({
    queryKey: ["waiting", batch, revision],
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/waiting", { params: { path: { batch } } })),
  }),
  layouts: (batch: string) => ({
    queryKey: ["layouts", batch],
    queryFn: () => answer(api.GET("/api/batches/{batch}/layouts", { params: { path: { batch } } })),
  }),
  /** The pages of a layout, saved or not, and where everything stands on them. */
  drawn: (batch: string, revision: number, layout: Layout | undefined, injection: string, sample: string, version: string) => ({
    queryKey: ["drawn", batch, revision, version, injection, sample, JSON.stringify(layout)],
    enabled: layout !== undefined,
    gcTime: 30_000,
    placeholderData: <T>(before: T) => before,
    queryFn: () =>
      answer(
        api.POST("/api/batches/{batch}/layouts/draw", {
          params: { path: { batch } },
          body: { layout: layout!, injection_id: injection, sample },
        }),
      ),
  }),
  fieldSets: (batch: string) => ({
    queryKey: ["fieldsets", batch],
    queryFn: () => answer(api.GET("/api/batches/{batch}/fields/sets", { params: { path: { batch } } })),
  }),
  figureStyles: () => ({ queryKey: ["figurestyles"], staleTime: Infinity, queryFn: () => answer(api.GET("/api/figure-styles")) }),
  targets: () => ({ queryKey: ["targets"], queryFn: () => answer(api.GET("/api/targets")) }),
  sets: (batch: string) => ({
    queryKey: ["sets", batch],
    queryFn: () => answer(api.GET("/api/batches/{batch}/sets", { params: { path: { batch } } })),
  }),
  plan: (batch: string, revision: number, asked: SetAsked) => ({
    queryKey: ["plan", batch, revision, JSON.stringify(asked)],
    enabled: asked.layout !== "" && asked.formats.length > 0,
    retry: false,
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.POST("/api/batches/{batch}/sets/plan", { params: { path: { batch } }, body: asked })),
  }),
  trends: (batch: string, revision: number, query: { quantities: string; compound: string; of: string; along: string; rules: string }) => ({
    queryKey: ["trends", batch, revision, JSON.stringify(query)],
    enabled: query.quantities !== "",
    retry: false,
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/trends", { params: { path: { batch }, query } })),
  }),
  views: (batch: string) => ({
    queryKey: ["views", batch],
    queryFn: () => answer(api.GET("/api/batches/{batch}/views", { params: { path: { batch } } })),
  }),
  quantities: (batch: string, revision: number) => ({
    queryKey: ["quantities", batch, revision],
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/quantities", { params: { path: { batch } } })),
  }),
  summary: (batch: string, revision: number, query: { measures: string; columns: string; of: string; by: string; batches: string }) => ({
    queryKey: ["summary", batch, revision, query],
    queryFn: () => answer(api.GET("/api/batches/{batch}/summary", { params: { path: { batch }, query } })),
    enabled: query.measures !== "",
  }),
  matrix: (batch: string, revision: number, quantity: string) => ({
    queryKey: ["matrix", batch, revision, quantity],
    queryFn: () => answer(api.GET("/api/batches/{batch}/matrix", { params: { path: { batch }, query: { quantity } } })),
  }),
  above: (batch: string, revision: number, channel: string, columns: number, treatment: Record<string, string>) => ({
    queryKey: ["above", batch, revision, channel, columns, JSON.stringify(treatment)],
    placeholderData: <T>(before: T) => before,
    queryFn: () =>
      answer(
        api.GET("/api/batches/{batch}/above", { params: { path: { batch }, query: { channel, columns: String(columns), ...treatment } } }),
      ),
  }),
  working: (batch: string, revision: number, injection: string, compound: string) => ({
    queryKey: ["working", batch, revision, injection, compound],
    enabled: injection !== "" && compound !== "",
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/working", { params: { path: { batch }, query: { injection, compound } } })),
  }),
  peaks: (batch: string, revision: number, injection: string, channel: string) => ({
    queryKey: ["peaks", batch, revision, injection, channel],
    queryFn: () =>
      answer(api.GET("/api/batches/{batch}/injections/{injection}/peaks", { params: { path: { batch, injection }, query: { channel } } })),
  }),
  proposals: (batch: string, revision: number, injection: string, channel: string) => ({
    queryKey: ["proposals", batch, revision, injection, channel],
    enabled: injection !== "",
    queryFn: () =>
      answer(
        api.GET("/api/batches/{batch}/injections/{injection}/proposals", { params: { path: { batch, injection }, query: { channel } } }),
      ),
  }),
  limits: (batch: string, revision: number) => ({
    queryKey: ["limits", batch, revision],
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/limits", { params: { path: { batch } } })),
  }),
  against: (batch: string, revision: number) => ({
    queryKey: ["against", batch, revision],
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/against", { params: { path: { batch } } })),
  }),
  tryMethod: (batch: string, revision: number, body: MethodTrial) => ({
    queryKey: ["method-trial", batch, revision, JSON.stringify(body)],
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.POST("/api/batches/{batch}/method-trials", { params: { path: { batch } }, body })),
  }),
  wholeWay: (batch: string, revision: number, body: WholeWayAsk, enabled: boolean) => ({
    queryKey: ["whole-way", batch, revision, JSON.stringify(body)],
    enabled,
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.POST("/api/batches/{batch}/whole-way/look", { params: { path: { batch } }, body })),
  }),
  signalsOf: (batch: string, injection: string, traces: string) => ({
    queryKey: ["signals-of", batch, injection, traces],
    enabled: injection !== "",
    queryFn: () => answer(api.GET("/api/batches/{batch}/injections/{injection}/signals", { params: { path: { batch, injection } } })),
  }),
  signal: (batch: string, injection: string, place: number) => ({
    queryKey: ["signal", batch, injection, place],
    queryFn: ({ signal }: { signal: AbortSignal }) => fetchTrace(batch, injection, { columns: 4000, place }, signal),
  }),
  signals: (batch: string, revision: number) => ({
    queryKey: ["signals", batch, revision],
    placeholderData: <T>(before: T) => before,
    queryFn: () => answer(api.GET("/api/batches/{batch}/signals", { params: { path: { batch } } })),
  }),
  compoundNames: () => ({ queryKey: ["compound-names"], queryFn: () => answer(api.GET("/api/compound-names")) }),
  notices: () => ({ queryKey: ["notices"], queryFn: () => answer(api.GET("/api/notices")) }),
  installation: () => ({ queryKey: ["installation"], queryFn: () => answer(api.GET("/api/installation")) }),
  methods: () => ({ queryKey: ["methods"], queryFn: () => answer(api.GET("/api/methods")) }),
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
