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

const block = 16;
/** Of each block of points the places of its least and greatest value, kept as long as the values are. */
const blocks = new WeakMap<object, { low: Int32Array; high: Int32Array }>();

function blocksOf(y: ArrayLike<number>) {
  let b = blocks.get(y);
  if (b) return b;
  const n = Math.ceil(y.length / block);
  b = { low: new Int32Array(n), high: new Int32Array(n) };
  for (let k = 0; k < n; k++) {
    let low = k * block;
    let high = low;
    for (let i = low + 1; i < Math.min(y.length, (k + 1) * block); i++) {
      if (y[i]! < y[low]!) low = i;
      if (y[i]! > y[high]!) high = i;
    }
    b.low[k] = low;
    b.high[k] = high;
  }
  blocks.set(y, b);
  return b;
}

/** The places of the least and the greatest value between two places, both included. */
export function extremes(y: ArrayLike<number>, from: number, to: number): [low: number, high: number] {
  let low = from;
  let high = from;
  let i = from;
  if (to - from >= 2 * block) {
    const b = blocksOf(y);
    for (; i % block !== 0; i++) {
      if (y[i]! < y[low]!) low = i;
      if (y[i]! > y[high]!) high = i;
    }
    for (; i + block - 1 <= to; i += block) {
      const k = i / block;
      if (y[b.low[k]!]! < y[low]!) low = b.low[k]!;
      if (y[b.high[k]!]! > y[high]!) high = b.high[k]!;
    }
  }
  for (; i <= to; i++) {
    if (y[i]! < y[low]!) low = i;
    if (y[i]! > y[high]!) high = i;
  }
  return [low, high];
}

/** The first place of each column of pixels over places that rise, and one past the last; lines over the same x share it. */
export function columnsOf(x: ArrayLike<number>, scale: number, offset: number, from: number, to: number): number[] {
  const starts: number[] = [];
  let column = NaN;
  for (let i = from; i <= to; i++) {
    const c = Math.floor(offset + scale * x[i]!);
    if (c !== column) starts.push(i);
    column = c;
  }
  starts.push(to + 1);
  return starts;
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
