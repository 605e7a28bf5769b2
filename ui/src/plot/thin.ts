// Traces reduced to what can be seen: of each pixel column the lowest and the highest point, in their order.
import type { Trace } from "../api/client";
import type { Frame } from "./frame";

/** The first point at or after a time. */
export function indexOf(t: Trace, min: number): number {
  let a = 0;
  let b = t.min.length - 1;
  while (a < b) {
    const m = (a + b) >> 1;
    if (t.min[m]! < min) a = m + 1;
    else b = m;
  }
  return a;
}

/** The value at a time; null outside of what was measured. */
export function valueAt(t: Trace, min: number): number | null {
  const n = t.min.length;
  if (n === 0 || min < t.min[0]! || min > t.min[n - 1]!) return null;
  const k = indexOf(t, min);
  return t.min[k]! > min && k > 0 ? t.value[k - 1]! : t.value[k]!;
}

/** Low and high of a scale that shows what is there and makes no mountains of dust: at least two percent of where it stands. */
export function scaleAround(low: number, high: number): [number, number] {
  const middle = (low + high) / 2;
  const half = Math.max((high - low) / 2, 0.01 * Math.abs(middle), 1e-9);
  return [middle - half, middle + half];
}

/** The path of a trace in a frame; another scale than the frame's may be given. */
export function pathOf(t: Trace, f: Frame, sy: (v: number) => number = f.sy): string {
  const columns = Math.max(1, Math.round(f.x1 - f.x0));
  const n = t.value.length;
  const first = Math.max(0, indexOf(t, f.from) - 1);
  let d = "";
  let column = -1;
  let low = 0;
  let top = 0;
  const draw = () => {
    if (column < 0) return;
    for (const i of low === top ? [low] : low < top ? [low, top] : [top, low])
      d += `${d ? "L" : "M"}${f.sx(t.min[i]!).toFixed(1)} ${sy(t.value[i]!).toFixed(1)}`;
  };
  for (let i = first; i < n; i++) {
    const c = Math.floor(((t.min[i]! - f.from) / (f.to - f.from)) * columns);
    if (c !== column) {
      draw();
      column = c;
      low = top = i;
    } else if (t.value[i]! < t.value[low]!) low = i;
    else if (t.value[i]! > t.value[top]!) top = i;
    if (t.min[i]! > f.to) break;
  }
  draw();
  return d;
}
