// The colours of a map: lightness falls evenly from the paper to a neutral wash and on to indigo, so that it reads in grey print and to the colour-blind; at Night
// the other way round. Computed in OKLab.

/** sRGB of 0 to 255 from lightness, chroma and hue (degrees). */
function rgb(l: number, c: number, h: number): [number, number, number] {
  const a = c * Math.cos((h * Math.PI) / 180);
  const b = c * Math.sin((h * Math.PI) / 180);
  const l3 = (l + 0.3963377774 * a + 0.2158037573 * b) ** 3;
  const m3 = (l - 0.1055613458 * a - 0.0638541728 * b) ** 3;
  const s3 = (l - 0.0894841775 * a - 1.291485548 * b) ** 3;
  const linear = [
    4.0767416621 * l3 - 3.3077115913 * m3 + 0.2309699292 * s3,
    -1.2684380046 * l3 + 2.6097574011 * m3 - 0.3413193965 * s3,
    -0.0041960863 * l3 - 0.7034186147 * m3 + 1.707614701 * s3,
  ];
  return linear.map((v) => {
    const g = v <= 0.0031308 ? 12.92 * v : 1.055 * Math.pow(Math.max(0, v), 1 / 2.4) - 0.055;
    return Math.round(255 * Math.max(0, Math.min(1, g)));
  }) as [number, number, number];
}

export const steps = 256;
/** The room that the cut along the wavelengths takes at the right of a map, px. */
export const cutWidth = 150;
/** The colours from nothing to the most. */
export function colours(night: boolean): [number, number, number][] {
  return Array.from({ length: steps }, (_, k) => {
    const t = k / (steps - 1);
    const dark = night ? 0.2 + 0.72 * t : 0.964 - 0.735 * t;
    const chroma = t < 0.3 ? 0.012 : 0.012 + 0.1 * Math.sin((Math.PI * (t - 0.3)) / 0.95);
    return rgb(dark, chroma, t < 0.3 && !night ? 85 : 255);
  });
}
