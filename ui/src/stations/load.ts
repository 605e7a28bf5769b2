// Each station comes when it is first wanted.
import type { Component } from "svelte";
import type { Station } from "../state/place.svelte";
import type { StationProps } from "./props";

export const load: Record<Station, () => Promise<{ default: Component<StationProps> }>> = {
  batch: () => import("./batch/Batch.svelte"),
  traces: () => import("./traces/Traces.svelte"),
  peaks: () => import("./peaks/Peaks.svelte"),
  spectra: () => import("./spectra/Spectra.svelte"),
  compounds: () => import("./compounds/Compounds.svelte"),
  curves: () => import("./curves/Curves.svelte"),
  results: () => import("./results/Results.svelte"),
  review: () => import("./review/Review.svelte"),
  report: () => import("./report/Report.svelte"),
};
