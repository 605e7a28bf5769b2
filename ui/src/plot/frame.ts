// Frames map data to pixels; ticks are round numbers in steps of 1, 2 or 5.
export type Frame = {
  x0: number;
  x1: number;
  y0: number; // the axis, below
  y1: number;
  from: number;
  to: number;
  low: number;
  high: number;
  sx: (v: number) => number;
  sy: (v: number) => number;
  ix: (px: number) => number;
};

export type Margins = { l: number; r: number; t: number; b: number };

export function frame(w: number, h: number, m: Margins, x: [number, number], y: [number, number]): Frame {
  const x0 = m.l;
  const x1 = Math.max(m.l + 1, w - m.r);
  const y0 = Math.max(m.t + 1, h - m.b);
  const y1 = m.t;
  return {
    x0,
    x1,
    y0,
    y1,
    from: x[0],
    to: x[1],
    low: y[0],
    high: y[1],
    sx: (v) => x0 + ((v - x[0]) / (x[1] - x[0])) * (x1 - x0),
    sy: (v) => y0 - ((v - y[0]) / (y[1] - y[0])) * (y0 - y1),
    ix: (px) => x[0] + ((px - x0) / (x1 - x0)) * (x[1] - x[0]),
  };
}

/** Round ticks between two values, about n of them, with the decimals they need. */
export function ticks(low: number, high: number, n: number): { at: number[]; step: number; decimals: number } {
  const raw = (high - low) / n;
  if (!(raw > 0) || !Number.isFinite(raw)) return { at: [], step: 1, decimals: 0 };
  const power = Math.pow(10, Math.floor(Math.log10(raw)));
  const step = power * ([1, 2, 5, 10].find((m) => m * power >= raw * 0.999) ?? 10);
  const decimals = Math.max(0, -Math.floor(Math.log10(step) + 1e-9));
  const at: number[] = [];
  for (let k = Math.ceil(low / step - 1e-9); k * step <= high + step * 1e-9; k++) at.push(k * step);
  return { at, step, decimals };
}

/** Ticks at whole powers of ten and, where there is room, at 2 and 5 of them. */
export function logTicks(low: number, high: number): number[] {
  const at: number[] = [];
  for (let p = Math.floor(Math.log10(low)); p <= Math.ceil(Math.log10(high)); p++)
    for (const m of [1, 2, 5]) {
      const v = m * Math.pow(10, p);
      if (v >= low * 0.999 && v <= high * 1.001) at.push(v);
    }
  return at;
}

/** Whether a label centred on x ends clear of the unit, which stands to the left of x1; both in type of 11 px. */
export function clearOf(unit: string, x1: number, x: number, label: string): boolean {
  const letter = 6.7; // px, of the widest figures and small letters
  return x + (label.length * letter) / 2 + letter < x1 - unit.length * letter;
}

export const minus = (text: string) => text.replace("-", "−");
export const label = (v: number, decimals: number) => minus((Math.abs(v) < 1e-12 ? 0 : v).toFixed(decimals));
