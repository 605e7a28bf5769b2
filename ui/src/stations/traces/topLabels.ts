// The names of compounds over a picture: in the lower row where there is room, else in the upper one, else left out.
import type { Compound } from "../../api/client";
import type { Frame } from "../../plot/frame";

export function topLabels(compounds: Compound[], f: Frame): { c: Compound; px: number; row: number }[] {
  const ends = [-Infinity, -Infinity];
  return compounds
    .filter((c) => c.expected_min > f.from && c.expected_min < f.to)
    .toSorted((a, b) => a.expected_min - b.expected_min)
    .map((c) => {
      const px = f.sx(c.expected_min);
      const half = c.name.length * 3 + 4;
      const row = ends.findIndex((end) => px - half > end);
      if (row >= 0) ends[row] = px + half;
      return { c, px, row };
    });
}
