// The scale of colours of pictures that are read as height: from the ground over a neutral wash to indigo, its lightness falling evenly in OKLab, so that it reads in
// grey print; in Night the other way round.

/** OKLCH to sRGB, 0 … 255. Source: B. Ottosson, "A perceptual color space for image processing", 2020. */
function rgb(l: number, chroma: number, hue: number): [number, number, number] {
  const a = chroma * Math.cos((hue * Math.PI) / 180);
  const b = chroma * Math.sin((hue * Math.PI) / 180);
  const x = (l + 0.3963377774 * a + 0.2158037573 * b) ** 3;
  const y = (l - 0.1055613458 * a - 0.0638541728 * b) ** 3;
  const z = (l - 0.0894841775 * a - 1.291485548 * b) ** 3;
  const gamma = (v: number) => Math.round(255 * Math.max(0, Math.min(1, v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055)));
  return [
    gamma(4.0767416621 * x - 3.3077115913 * y + 0.2309699292 * z),
    gamma(-1.2684380046 * x + 2.6097574011 * y - 0.3413193965 * z),
    gamma(-0.0041960863 * x - 0.7034186147 * y + 1.707614701 * z),
  ];
}

/** The colour of a height between 0 and 1. */
export function colourOf(height: number, night: boolean): [number, number, number] {
  const t = Math.max(0, Math.min(1, height));
  const neutral = t < 0.3;
  const hue = neutral && !night ? 85 : 255;
  const chroma = neutral ? 0.0095 * (1 - t / 0.3) : Math.min(1, (t - 0.3) / 0.5) * 0.083 - (t > 0.85 ? (t - 0.85) * 0.1 : 0);
  return night ? rgb(0.19 + 0.76 * t, chroma + 0.012, 262) : rgb(0.964 - 0.735 * t, chroma, hue);
}

/** 512 colours from nothing to the greatest. */
export const scaleOf = (night: boolean): [number, number, number][] => Array.from({ length: 512 }, (_, i) => colourOf(i / 511, night));
