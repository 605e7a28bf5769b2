// Lines of equal height on a map, each four times as high as the one below it.
import { contours } from "d3-contour";

export type ContourLine = { height: number; /** In cells of the map, its top left at 0 0. */ path: string };

/** How many times higher than what a map mostly is a line must be: below, it would only follow noise. */
const aboveUsual = 8;
/** So many heights tell what a map mostly is. */
const sampled = 20_000;

/** The lines of a map whose rows stand from the lowest of its axis up: at a 32nd, an eighth and a half of the most. */
export function contourLines(values: number[][], most: number): ContourLine[] {
  const across = values[0]?.length ?? 0;
  if (across < 2 || values.length < 2) return [];
  const flat = values.toReversed().flat();
  const each = Math.ceil(flat.length / sampled);
  const sample = flat.filter((_, k) => k % each === 0).map(Math.abs);
  const usual = sample.sort((a, b) => a - b)[sample.length >> 1]!;
  const heights = [most / 32, most / 8, most / 2].filter((h) => h > aboveUsual * usual);
  return contours()
    .size([across, values.length])
    .thresholds(heights)(flat)
    .map((line) => ({
      height: line.value,
      path: line.coordinates
        .flat()
        .map((ring) => `M${ring.map(([x = 0, y = 0]) => `${x.toFixed(2)} ${y.toFixed(2)}`).join("L")}Z`)
        .join(""),
    }));
}
