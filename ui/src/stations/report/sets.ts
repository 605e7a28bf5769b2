// How what became of reports is said.
export const size = (bytes: number) => (bytes >= 1e6 ? `${(bytes / 1e6).toFixed(1)} MB` : `${Math.max(1, Math.round(bytes / 1000))} kB`);
export const when = (t: string) =>
  new Date(t).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
export const stateWords: Record<string, string> = {
  waits: "waits",
  made: "made",
  held: "held back",
  failed: "not made",
  stopped: "stopped",
};
