// Which channel of the method is looked at, and the result as that channel shows it.
import type { Batch, Channel, Injected, Method, Peak, Result, Settings } from "../api/client";

/** The channel in which a compound is looked for. */
export const channelOfCompound = (method: Method, compound: string | undefined): Channel | undefined => {
  const c = method.compounds.find((c) => c.id === compound);
  return c && (method.channels.find((k) => k.id === c.channel) ?? method.channels[0]);
};

/** The channel of that id, the first for any other word. */
export const channelOf = (method: Method, id: string | undefined): Channel =>
  method.channels.find((c) => c.id === id) ?? method.channels[0]!;

/** How compounds and edits name a channel: the first one not at all. */
export const channelIn = (method: Method, channel: Channel): string | undefined =>
  channel.id === method.channels[0]!.id ? undefined : channel.id;

/** What a channel is called where people read it. */
export const channelTitle = (batch: Batch, channel: Channel): string => signalTitle(batch, channel.signal);

function signalTitle(batch: Batch, s: Channel["signal"]): string {
  const places = (s.places ?? []).map((p) => `${p.at}${p.tolerance ? ` ± ${p.tolerance}${p.ppm ? " ppm" : ""}` : ""}`);
  const at = places.join(" + ");
  const part = (k: number) => (s.parts?.[k] ? signalTitle(batch, s.parts[k]) : "");
  switch (s.kind ?? "") {
    case "ions":
      return `m/z ${at}`;
    case "product":
      return `m/z ${places.join(" → ")}`;
    case "wavelength":
      return `${at} nm`;
    case "total_ion":
      return "total ion";
    case "base_peak":
      return "base peak";
    case "maximum":
      return "maximum over wavelengths";
    case "ratio":
      return `${part(0)} ÷ ${part(1)}`;
    case "less_blank":
      return `${part(0)} less the blank`;
  }
  return s.name || batch.injections.find((i) => !i.typed)?.signal || "first signal";
}

/** The method with other settings for one channel. */
export const withSettings = (method: Method, channel: string, peaks: Settings): Method => ({
  ...method,
  channels: method.channels.map((c) => (c.id === channel ? { ...c, peaks } : c)),
});

const nothing = { trace: "", unit: "", noise_sd: 0, width_min: 0, end_width_min: 0, peaks: [] as Peak[] };

/** One injection as a channel shows it: the peaks of that channel first, those of the others further on. */
export function inChannel(i: Injected, channel: string): Injected {
  if (i.channel === channel || !i.channel) return i;
  const { id, readings, internal_standards_percent, qualifiers, contenders, places, further, ...first } = i;
  const of = further?.find((f) => f.channel === channel) ?? { ...nothing, channel };
  const rest = (further ?? []).filter((f) => f.channel !== channel);
  return { ...of, id, readings, internal_standards_percent, qualifiers, contenders, places, further: [first, ...rest] };
}

export const resultIn = (result: Result, channel: string): Result =>
  result.injections.every((i) => i.channel === channel || !i.channel)
    ? result
    : { ...result, injections: result.injections.map((i) => inChannel(i, channel)) };

/** The peaks of an injection in all channels. */
export const allPeaks = (i: Injected): Peak[] => [...i.peaks, ...(i.further ?? []).flatMap((f) => f.peaks)];
