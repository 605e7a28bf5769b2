// The one way to the server: typed by the contract, with the analyst's name on every request and errors as sentences.
import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

type Schemas = components["schemas"];
export type BenchPost = Schemas["BenchPost"];
export type BenchAct = Schemas["BenchAct"];
export type BenchState = Schemas["State"];
export type BenchCondition = Schemas["Condition"];
export type BenchReading = Schemas["InstrumentReading"];
export type ListAsked = Schemas["ListAsked"];
export type Live = Schemas["Live"];
export type Lane = Schemas["Lane"];
export type Quantity = Schemas["Quantity"];
export type Trends = Schemas["Trends"];
export type TrendChart = Schemas["TrendChart"];
export type TrendPoint = Schemas["TrendPoint"];
export type LabField = Schemas["LabField"];
export type FieldTrial = Schemas["FieldTrial"];
export type Layout = Schemas["Layout"];
export type LayoutBlock = Schemas["LayoutBlock"];
export type LayoutValue = Schemas["LayoutValue"];
export type KeptLayout = Schemas["KeptLayout"];
export type Drawn = Schemas["Drawn"];
export type Box = Schemas["Box"];
export type SetAsked = Schemas["SetAsked"];
export type ReportSet = Schemas["ReportSet"];
export type ReportFile = Schemas["ReportFile"];
export type Study = Schemas["Study"];
export type Batch = Schemas["Batch"];
export type Injection = Schemas["Injection"];
export type View = Schemas["View"];
export type ChannelAsked = Schemas["ChannelAsked"];
export type Channel = Schemas["Channel"];
export type Method = Schemas["Method"];
export type Choices = Schemas["Choices"];
export type MethodTrial = Schemas["MethodTrial"];
export type TriedMethod = Schemas["TriedMethod"];
export type AgainstRow = Schemas["AgainstRow"];
export type ContentTable = Schemas["ContentTable"];
export type ReadingsTable = Schemas["ReadingsTable"];
export type Settings = Schemas["Settings"];
export type Compound = Schemas["Compound"];
export type Result = Schemas["BatchResult"];
export type ResultView = Schemas["ResultView"];
export type Injected = Schemas["Injected"];
export type Peak = Schemas["NamedPeak"];
export type Expected = Schemas["Expected"];
export type Proposal = Schemas["Proposal"];
export type Dropped = Schemas["Dropped"];
export type Reading = Schemas["Reading"];
export type Curve = Schemas["Curve"];
export type Notice = Schemas["Notice"];
export type Working = Schemas["Working"];
export type Edit = Schemas["Edit"];
export type EntryChange = Schemas["EntryChange"];
export type CurveTrial = Schemas["CurveTrial"];
export type SampleValue = Schemas["SampleValue"];
export type Arrived = Schemas["Arrived"];
export type RecordRow = Schemas["RecordRow"];
export type WholeWay = Schemas["WholeWay"];
export type WholeWayAsk = Schemas["WholeWayAsk"];
export type OwnColumn = Schemas["OwnColumn"];
export type LookingView = Schemas["LookingView"];
export type Looked = Schemas["Looked"];
export type Profile = Schemas["Profile"];
export type SeenSo = Schemas["SeenSo"];
export type Job = Schemas["Job"];
export type AskedAgain = Schemas["AskedAgain"];
export type Summary = Schemas["Summary"];
export type Screened = Schemas["Screened"];
export type ScreenedCell = Schemas["ScreenedCell"];
export type ScreenMark = Schemas["ScreenMark"];
export type ScreenWord = ScreenedCell["word"];
export type ScreenDecision = Schemas["ScreenDecision"];
export type ScreenEvidence = Schemas["ScreenEvidence"];
export type ScreenRules = Schemas["ScreenRules"];
export type WholeBatch = Schemas["WholeBatch"];
export type ResolvedRow = Schemas["ResolvedRow"];
export type ResolvedDetail = Schemas["ResolvedDetail"];
export type Review = Schemas["Review"];
export type ReviewItem = Schemas["ReviewItem"];
export type BeforeAfter = Schemas["BeforeAfter"];
export type GivenSignature = Schemas["GivenSignature"];
export type InstallationSettings = Schemas["InstallationSettings"];
export type Myself = Schemas["Myself"];
export type Staff = Schemas["Staff"];
export type Person = Schemas["Person"];
export type ShownToken = Schemas["ShownToken"];
export type PeakPurity = Schemas["PeakPurity"];
export type SpectraMap = Schemas["SpectraMap"];
export type IdentifyAsked = Schemas["IdentifyAsked"];
export type Identified = Schemas["Identified"];
export type SpectrumHit = Schemas["SpectrumHit"];
export type SummaryStatistics = Schemas["SummaryStatistics"];

/** An error that is a sentence for a person. */
export class Problem extends Error {
  constructor(
    message: string,
    readonly status: number,
    /** Which field of the request is wrong, as a JSON pointer. */
    readonly pointer = "",
  ) {
    super(message);
  }
}

const analystKey = "yugen-analyst";
export const analyst = {
  get name(): string {
    return localStorage.getItem(analystKey) ?? "";
  },
  set name(name: string) {
    localStorage.setItem(analystKey, name);
  },
};

/** Told when the server wants a person to sign in. */
export const entrance = { shut: (why: string): void => void why };

const client = createClient<paths>({ baseUrl: location.origin });
client.use({
  async onResponse({ request, response }) {
    if (response.status === 401 && !request.url.endsWith("/api/session")) {
      const said = (await response
        .clone()
        .json()
        .catch(() => ({}))) as { detail?: string };
      entrance.shut(said.detail ?? "Sign in first.");
    }
  },
  onRequest({ request }) {
    if (analyst.name) request.headers.set("Yugen-Analyst", encodeURIComponent(analyst.name));
    return request;
  },
});
export const api = client;

const unreachable = "The server does not answer. Is Yugen still running?";

/** The data of an answer, or a Problem. */
export async function answer<T>(request: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  const { data, error, response } = await request.catch((cause: unknown) => {
    if (cause instanceof DOMException && cause.name === "AbortError") throw cause;
    throw new Problem(unreachable, 0);
  });
  if (data === undefined) {
    const problem = error as { detail?: string; pointer?: string } | undefined;
    throw new Problem(problem?.detail ?? `The server answered ${response.status}.`, response.status, problem?.pointer);
  }
  return data;
}

/** Sends a file to be looked at; nothing is kept of it until it is taken. */
export async function lookAt(batch: string, file: File): Promise<Looked> {
  const response = await fetch(`/api/batches/${batch}/looks?name=${encodeURIComponent(file.name)}`, {
    method: "POST",
    body: file,
    headers: analyst.name ? { "Yugen-Analyst": encodeURIComponent(analyst.name) } : {},
  }).catch(() => undefined);
  if (!response) throw new Problem(unreachable, 0);
  const body = await response.json().catch(() => ({}));
  if (!response.ok) throw new Problem(body.detail ?? `The server answered ${response.status}.`, response.status);
  return body;
}

/** Times (s) and values of a trace, reduced to what so many columns can show. */
export async function fetchTrace(
  batch: string,
  injection: string,
  range: {
    fromS?: number;
    toS?: number;
    columns: number;
    /** Of a signal among those of its file. */ place?: number;
    channel?: string;
    /** Ions of the spectra, in words. */ ions?: string;
    treatment?: Record<string, string>;
  },
  signal?: AbortSignal,
): Promise<Trace> {
  const q = new URLSearchParams({ columns: String(Math.round(range.columns)) });
  if (range.fromS !== undefined) q.set("from", String(range.fromS));
  if (range.toS !== undefined) q.set("to", String(range.toS));
  if (range.place !== undefined) q.set("signal", String(range.place));
  if (range.channel) q.set("channel", range.channel);
  if (range.ions) q.set("ions", range.ions);
  for (const [word, value] of Object.entries(range.treatment ?? {})) if (value) q.set(word, value);
  const response = await fetch(`/api/batches/${batch}/injections/${injection}/trace?${q}`, { signal });
  if (!response.ok)
    throw new Problem(
      response.status === 404 && range.channel ? "This injection does not have the signal of this channel." : "The trace cannot be read.",
      response.status,
    );
  const raw = new Float64Array(await response.arrayBuffer());
  const n = raw.length / 2;
  const trace: Trace = { min: new Float64Array(n), value: new Float64Array(n) };
  for (let i = 0; i < n; i++) {
    trace.min[i] = (raw[2 * i] ?? 0) / 60;
    trace.value[i] = raw[2 * i + 1] ?? 0;
  }
  trace.shiftMin = Number(response.headers.get("X-Shift-Min") ?? 0);
  trace.factor = Number(response.headers.get("X-Factor") ?? 1);
  return trace;
}

/** A trace for drawing: minutes and values. */
export type Trace = { min: Float64Array; value: Float64Array; /** What was done to it for looking. */ shiftMin?: number; factor?: number };
export type Above = Schemas["Above"];

/** Sends one file to a batch. It is safe when this answers; what becomes of it stands among the batch's arrivals. */
export async function sendFile(batch: string, file: File): Promise<Arrived> {
  const refused = (message: string): Arrived => ({ id: "", file: file.name, status: "refused", message });
  const response = await fetch(`/api/batches/${batch}/files?later=1&name=${encodeURIComponent(file.name)}`, {
    method: "POST",
    body: file,
    headers: analyst.name ? { "Yugen-Analyst": encodeURIComponent(analyst.name) } : {},
  }).catch(() => undefined);
  if (!response) return refused(unreachable);
  const body = await response.json().catch(() => ({}));
  return response.ok ? body : refused(body.detail ?? `The server answered ${response.status}.`);
}
