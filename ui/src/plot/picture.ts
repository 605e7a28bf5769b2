// A plot as a picture to take away: its layers, drawn and painted, in one SVG of its own, or as PNG at twice the size.

/** The colours and type that a drawing takes from the page, written into it so that it stands alone. */
const inherited = [
  "fill",
  "stroke",
  "stroke-width",
  "stroke-dasharray",
  "opacity",
  "font-family",
  "font-size",
  "font-weight",
  "font-style",
  "text-anchor",
];

function standAlone(svg: SVGSVGElement): string {
  const copy = svg.cloneNode(true) as SVGSVGElement;
  const from = [svg, ...svg.querySelectorAll<SVGElement>("*")];
  const to = [copy, ...copy.querySelectorAll<SVGElement>("*")];
  from.forEach((el, i) => {
    const style = getComputedStyle(el);
    for (const name of inherited) to[i]!.style.setProperty(name, style.getPropertyValue(name));
    if (style.display === "none" || style.visibility === "hidden") to[i]!.style.display = "none";
  });
  return copy.innerHTML;
}

/** All canvases and drawings inside an element, in the order in which they lie over each other. */
export function svgOf(element: HTMLElement): { text: string; width: number; height: number } {
  const box = element.getBoundingClientRect();
  const width = Math.round(box.width);
  const height = Math.round(box.height);
  const paper = getComputedStyle(document.documentElement).getPropertyValue("--paper").trim() || "white";
  let inside = `<rect width="${width}" height="${height}" fill="${paper}"/>`;
  for (const el of element.querySelectorAll<HTMLCanvasElement | SVGSVGElement>("canvas, svg")) {
    if (el.parentElement?.closest("svg, button")) continue;
    const at = el.getBoundingClientRect();
    const x = at.left - box.left;
    const y = at.top - box.top;
    if (at.width === 0 || at.height === 0) continue;
    inside +=
      el instanceof HTMLCanvasElement
        ? `<image x="${x}" y="${y}" width="${at.width}" height="${at.height}" href="${el.toDataURL("image/png")}"/>`
        : `<svg x="${x}" y="${y}" width="${at.width}" height="${at.height}" overflow="hidden">${standAlone(el)}</svg>`;
  }
  return {
    text: `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">${inside}</svg>`,
    width,
    height,
  };
}

export function save(blob: Blob, name: string) {
  const a = document.createElement("a");
  a.href = URL.createObjectURL(blob);
  a.download = name;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 10_000);
}

export const fileName = (name: string, ending: string) => `${name.replace(/[^\p{L}\p{N} ,.-]+/gu, " ").trim() || "picture"}.${ending}`;

export function saveSVG(element: HTMLElement, name: string) {
  save(new Blob([svgOf(element).text], { type: "image/svg+xml" }), fileName(name, "svg"));
}

export async function savePNG(element: HTMLElement, name: string) {
  const { text, width, height } = svgOf(element);
  const image = new Image();
  image.src = URL.createObjectURL(new Blob([text], { type: "image/svg+xml" }));
  await image.decode();
  const canvas = document.createElement("canvas");
  canvas.width = 2 * width;
  canvas.height = 2 * height;
  const g = canvas.getContext("2d");
  if (!g) return;
  g.drawImage(image, 0, 0, canvas.width, canvas.height);
  URL.revokeObjectURL(image.src);
  canvas.toBlob((blob) => blob && save(blob, fileName(name, "png")), "image/png");
}
