// Labels that never overlap: placed by priority above their apexes, raised with a leader where something stands in the way, and
// dropped last, the least first.
import type { Frame } from "./frame";

export type Wanted = {
  id: string;
  x: number;
  y: number;
  name: string;
  time: string;
  priority: number;
  colour?: string;
};
export type Placed = Wanted & { lx: number; ly: number; leader: boolean };

type Box = { x0: number; x1: number; y0: number; y1: number };
const touches = (a: Box, b: Box) => a.x0 < b.x1 && a.x1 > b.x0 && a.y0 < b.y1 && a.y1 > b.y0;

/** Ways out of the place above the apex, the nearest first: straight up before to a side. */
const tries: [up: number, side: number][] = [];
for (let up = 0; up <= 96; up += 6) for (const side of [0, 14, -14, 28, -28]) tries.push([up, side]);
tries.sort((a, b) => a[0] + 2.2 * Math.abs(a[1]) - (b[0] + 2.2 * Math.abs(b[1])));

/** traceTop gives the highest pixel of the trace between two x. */
export function place(wanted: Wanted[], f: Frame, traceTop: (x0: number, x1: number) => number): Placed[] {
  const boxes: Box[] = [];
  const placed: Placed[] = [];
  for (const w of wanted.toSorted((a, b) => b.priority - a.priority)) {
    const width = Math.max(w.name.length * 6.6, w.time.length * 6.2) + 6;
    const height = w.name ? 27 : 13;
    let best: Placed | undefined;
    for (const [up, side] of tries) {
      const lx = w.x + side + Math.sign(side) * (width / 2 - 6);
      const ly = w.y - 8 - up - (side ? 8 : 0);
      const box = { x0: lx - width / 2, x1: lx + width / 2, y0: ly - height, y1: ly + 2 };
      if (box.x0 < f.x0 - 20 || box.x1 > f.x1 + 12 || box.y0 < 0) continue;
      if (boxes.some((b) => touches(b, box))) continue;
      if (traceTop(box.x0 + 2, box.x1 - 2) < box.y1 - 1) continue;
      best = { ...w, lx, ly, leader: up > 6 || side !== 0 };
      boxes.push(box);
      break;
    }
    if (best) placed.push(best);
  }
  return placed;
}
