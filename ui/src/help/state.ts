// What is done already, from the batch itself and never from clicks.
import type { Batch, Result, Review } from "../api/client";

export function doneOf(
  batch: Batch | undefined,
  result: Result | undefined,
  review: Review | undefined,
  batches: number,
): Record<string, boolean> {
  const injections = batch?.injections ?? [];
  const standards = injections.filter((i) => i.role === "standard");
  const open = result?.notices.filter((n) => !batch?.settled.includes(n.key)) ?? [];
  const compounds = batch?.version.method.compounds ?? [];
  const standing = (meaning: string) => review?.signatures.some((s) => s.meaning === meaning && !s.gone && s.holds) ?? false;
  return {
    batches: batches > 0,
    injections: injections.length > 0,
    roles: injections.length > 0 && injections.every((i) => i.role !== ""),
    levels: standards.length > 0 && standards.every((i) => i.level !== null),
    settled: result !== undefined && open.length === 0,
    peaks: result?.injections.some((i) => i.peaks.length > 0) ?? false,
    version: (batch?.version.number ?? 1) > 1,
    named: compounds.length > 0,
    internal: compounds.some((c) => c.role === "internal_standard"),
    curves: result?.curves.some((c) => c.fit) ?? false,
    results: result?.samples.some((s) => Object.values(s.values).some((v) => v.mean !== null)) ?? false,
    checks: (result?.checks.length ?? 0) > 0 && result!.checks.every((c) => !c.outside),
    looked: review !== undefined && review.items.every((i) => i.judged?.verdict === "accepted"),
    prepared: standing("prepared"),
    signed: batch?.signed ?? false,
    reported: batch?.reported ?? false,
  };
}
