// What curves are called on the screen.
import type { Curve, Method } from "../../api/client";

export type Own = NonNullable<Method["curves"]["own"]>[string];
export type Way = "residual_sd" | "intercept_se" | "replicates" | "blanks" | "signal_to_noise" | "lowest_level";

export const wayWords: Record<Way, string> = {
  residual_sd: "residual SD of the curve",
  intercept_se: "standard error of the intercept",
  replicates: "SD of replicates at the lowest level",
  blanks: "SD of blanks",
  signal_to_noise: "signal-to-noise 3 and 10",
  lowest_level: "lowest level in use",
};

export const termNames: Record<string, string[]> = {
  linear: ["Intercept", "Slope"],
  loglog: ["Intercept, log", "Slope, log"],
  linear_origin: ["Slope"],
  average: ["Mean factor"],
  one_point: ["Factor"],
  quadratic: ["b₀", "b₁", "b₂"],
  quadratic_origin: ["b₁", "b₂"],
};

export const modelWords: Record<string, string> = {
  linear: "linear",
  linear_origin: "linear through zero",
  quadratic: "quadratic",
  quadratic_origin: "quadratic through zero",
  loglog: "linear in logarithms",
  average: "mean response factor",
  one_point: "one point",
};

export const weightWords: Record<Method["curves"]["weight"], string> = {
  none: "none",
  "1/x": "1/x",
  "1/x2": "1/x²",
  "1/y": "1/y",
  "1/y2": "1/y²",
  "1/s2": "1/s², s modelled",
  "1/s2_measured": "1/s², s as measured",
};

/** What stands under the curve, for each of its points. */
export type Deviation = "back" | "relative" | "residual";
export const deviationWords: Record<Deviation, string> = {
  back: "deviation of the back-calculated value, %",
  relative: "residual of the response, %",
  residual: "residual of the response",
};

export function deviationOf(curve: Curve, i: number, kind: Deviation): number | null {
  const p = curve.fit?.points[i];
  if (!p) return null;
  return kind === "back" ? p.deviation_percent : kind === "relative" ? p.relative_residual_percent : p.residual;
}
