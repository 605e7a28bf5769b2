<script lang="ts" module>
  /** A line over the shared x; fill is a colour down to fillTo. */
  export type Line = {
    y: ArrayLike<number>;
    colour: string;
    width: number;
    dash?: number[];
    fill?: string;
    fillTo?: number;
  };
</script>

<script lang="ts">
  // Lines on a canvas, drawn by uPlot; axes and overlays are laid over it in SVG on the same frame.
  import uPlot from "uplot";
  import "uplot/dist/uPlot.min.css";
  import { light } from "../state/light.svelte";
  import type { Frame } from "./frame";

  let { f, x, lines }: { f: Frame; x: ArrayLike<number>; lines: Line[] } = $props();
  let host = $state<HTMLDivElement>();
  let plot: uPlot | undefined;
  let shape = "";

  const css = (name: string) =>
    name.startsWith("--") ? getComputedStyle(document.documentElement).getPropertyValue(name).trim() : name;

  /** Every point as it is: the data come reduced to what the pixels can show, and reducing them again would make steps of slopes. */
  const every: uPlot.Series.PathBuilder = (u, series, first, last) => {
    const xs = u.data[0] as ArrayLike<number>;
    const ys = u.data[series] as ArrayLike<number>;
    const stroke = new Path2D();
    const from = Math.max(0, first - 1);
    const to = Math.min(xs.length - 1, last + 1);
    for (let i = from; i <= to; i++) stroke.lineTo(u.valToPos(xs[i]!, "x", true), u.valToPos(ys[i]!, "y", true));
    const line = lines[series - 1];
    if (!line?.fill) return { stroke };
    const fill = new Path2D(stroke);
    const base = u.valToPos(line.fillTo ?? 0, "y", true);
    fill.lineTo(u.valToPos(xs[to]!, "x", true), base);
    fill.lineTo(u.valToPos(xs[from]!, "x", true), base);
    fill.closePath();
    return { stroke, fill };
  };

  function build(): uPlot {
    return new uPlot(
      {
        width: Math.max(1, f.x1 - f.x0),
        height: Math.max(1, f.y0 - f.y1),
        padding: [0, 0, 0, 0],
        legend: { show: false },
        cursor: { show: false },
        axes: [{ show: false }, { show: false }],
        scales: {
          x: { time: false, auto: false, range: () => [f.from, f.to] },
          y: { auto: false, range: () => [f.low, f.high] },
        },
        series: [
          {},
          ...lines.map((l) => ({
            stroke: css(l.colour),
            width: l.width,
            dash: l.dash,
            fill: l.fill ? css(l.fill) : undefined,
            fillTo: l.fillTo,
            paths: every,
            points: { show: false },
            pxAlign: 0,
          })),
        ],
        pxAlign: 0,
      },
      [x, ...lines.map((l) => l.y)] as uPlot.AlignedData,
      host!,
    );
  }

  $effect(() => {
    const wanted = JSON.stringify([light.night, lines.map((l) => [l.colour, l.width, l.dash, l.fill, l.fillTo])]);
    if (!plot || shape !== wanted) {
      plot?.destroy();
      plot = build();
      shape = wanted;
    } else {
      plot.setSize({ width: Math.max(1, f.x1 - f.x0), height: Math.max(1, f.y0 - f.y1) });
      plot.setData([x, ...lines.map((l) => l.y)] as uPlot.AlignedData, false);
      plot.batch(() => {
        plot!.setScale("x", { min: f.from, max: f.to });
        plot!.setScale("y", { min: f.low, max: f.high });
      });
    }
  });
  $effect(() => () => plot?.destroy());
</script>

<div class="lines" bind:this={host} style="left:{f.x0}px;top:{f.y1}px" aria-hidden="true"></div>

<style>
  .lines {
    position: absolute;
    pointer-events: none;
  }
</style>
