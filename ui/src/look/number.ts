// Numbers as people read them: a true minus sign, an en dash for what is missing.
export const missing = "–";

export function fixed(v: number | null | undefined, decimals: number): string {
  if (v === null || v === undefined) return missing;
  const text = v.toFixed(decimals);
  return (Number(text) === 0 ? text.replace("-", "") : text).replace("-", "−");
}

/** A value with so many significant digits and no exponent between a millionth and 10 million. */
export function significant(v: number | null | undefined, digits: number): string {
  if (v === null || v === undefined) return missing;
  const a = Math.abs(v);
  if (a !== 0 && (a < 1e-6 || a >= 1e7)) return v.toExponential(digits - 1).replaceAll("-", "−");
  const decimals = a > 0 ? Math.max(0, digits - 1 - Math.floor(Math.log10(a))) : 0;
  return v.toFixed(decimals).replace("-", "−");
}

export function signed(v: number | null | undefined, decimals: number): string {
  if (v === null || v === undefined) return missing;
  const text = fixed(v, decimals);
  return v > 0 && Number(text) !== 0 ? `+${text}` : text;
}

/** R² with as many nines as there are and two digits more. */
export function rSquared(v: number | null): string {
  if (v === null) return missing;
  if (v >= 1 || v <= 0) return v.toFixed(4);
  return v.toFixed(Math.min(12, 2 + Math.max(2, -Math.floor(Math.log10(1 - v)))));
}

/** Areas: decimals so that the smallest of a list keeps three digits, and all line up. */
export function decimalsFor(values: number[], digits = 3): number {
  const least = Math.min(...values.map(Math.abs).filter((v) => v > 0));
  return Number.isFinite(least) ? Math.max(0, Math.min(6, digits - 1 - Math.floor(Math.log10(least)))) : 2;
}

/** "1 peak", "2 peaks", "0 peaks". */
export const count = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;
