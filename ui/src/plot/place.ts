// Labels that never overlap: placed by priority above their apexes, moved aside with a leader where something stands in the way, and
// dropped last, the least first. All labels share one angle, so they are compared in a frame that is turned with them.
import type { Frame } from "./frame";

export type Wanted = {
  id: string;
  x: number;
  y: number;
  name: string;
  /** What stands under the name, or after it where labels are turned. */
  values: string;
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

const wide = (text: string, each: number) => text.length * each;

/** traceTop gives the highest pixel of the trace between two x; angle is in degrees, upwards. */
export function place(wanted: Wanted[], f: Frame, angle: number, traceTop: (x0: number, x1: number) => number): Placed[] {
  const boxes: Box[] = [];
  const placed: Placed[] = [];
  const cos = Math.cos((angle * Math.PI) / 180);
  const sin = Math.sin((angle * Math.PI) / 180);
  for (const w of wanted.toSorted((a, b) => b.priority - a.priority)) {
    const level = angle === 0;
    const width = level ? Math.max(wide(w.name, 6.6), wide(w.values, 6.2)) + 6 : wide(w.name, 6.6) + wide(w.values, 6.2) + 8;
    const height = level && w.name && w.values ? 27 : 13;
    for (const [up, side] of tries) {
      const lx = w.x + (level ? side + Math.sign(side) * (width / 2 - 6) : side / 2 + 4 * sin);
      const ly = w.y - 8 - up - (side ? 8 : 0);
      // The anchor in the turned frame: along the text, and across it, downwards.
      const along = lx * cos - ly * sin;
      const across = lx * sin + ly * cos;
      const box = level
        ? { x0: lx - width / 2, x1: lx + width / 2, y0: ly - height, y1: ly + 2 }
        : { x0: along, x1: along + width, y0: across - height + 3, y1: across + 3 };
      const end = { x: lx + (level ? width / 2 : width * cos), y: level ? box.y0 : ly - width * sin };
      const left = level ? box.x0 : lx - 8 * sin;
      if (left < f.x0 - 20 || end.x > f.x1 + 12 || end.y < 0) continue;
      if (boxes.some((b) => touches(b, box))) continue;
      if (level ? traceTop(box.x0 + 2, box.x1 - 2) < box.y1 - 1 : crosses(lx, ly, width, cos, sin, traceTop)) continue;
      placed.push({ ...w, lx, ly, leader: up > 6 || side !== 0 });
      boxes.push(box);
      break;
    }
  }
  return placed;
}

/** Whether a turned label would stand on the trace anywhere along its text. */
function crosses(x: number, y: number, width: number, cos: number, sin: number, traceTop: (x0: number, x1: number) => number): boolean {
  for (let k = 0; k <= width; k += 6) {
    const at = x + k * cos;
    if (traceTop(at - 3, at + 3) < y - k * sin + 1) return true;
  }
  return false;
}
