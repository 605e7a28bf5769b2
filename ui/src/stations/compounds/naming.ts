// What naming a peak does to the compound table.
import type { Compound, Peak } from "../../api/client";
import { compoundAt } from "./table";

/** The table once a peak bears a name, with the words for the record and the compound's id; null where nothing changes. */
export function named(
  compounds: Compound[],
  peak: Peak,
  peaks: Peak[],
  text: string,
  /** The channel in which the peak stands; undefined is the first. */
  channel: string | undefined,
): { compounds: Compound[]; why: string; id: string } | null {
  const own = compounds.find((c) => c.id === peak.compound_id);
  const same = compounds.find((c) => c.name === text);
  if (own) {
    if (own.name === text) return null;
    return {
      compounds: compounds.map((c) => (c.id === own.id ? { ...c, name: text } : c)),
      why: `${own.name} renamed ${text}`,
      id: own.id,
    };
  }
  if (same) {
    return {
      compounds: compounds.map((c) => (c.id === same.id ? { ...c, channel, expected_min: Number(peak.apex_min.toFixed(3)) } : c)),
      why: `${text} is expected at ${peak.apex_min.toFixed(3)} min`,
      id: same.id,
    };
  }
  const fresh = compoundAt(
    peak,
    text,
    peaks,
    compounds.map((c) => c.id),
  );
  if (channel) fresh.channel = channel;
  return { compounds: [...compounds, fresh], why: `${text} named at ${peak.apex_min.toFixed(2)} min`, id: fresh.id };
}
