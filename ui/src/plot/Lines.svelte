<script lang="ts" module>
  /** A line over the shared x, lifted by so much of the signal; fill is a colour down to the lifted zero. */
  export type Line = {
    y: ArrayLike<number>;
    colour: string;
    width: number;
    dash?: number[];
    fill?: string;
    lift?: number;
    zero?: number;
  };
</script>

<script lang="ts">
  // Lines on a canvas, drawn by uPlot; axes and overlays are laid over it in SVG on the same frame.
  import uPlot from "uplot";
  import "uplot/dist/uPlot.min.css";
  import { light } from "../state/light.svelte";
  import { columnsOf, extremes } from "./thin";
  import type { Frame } from "./frame";

  let { f, x, lines }: { f: Frame; x: ArrayLike<number>; lines: Line[] } = $props();
  let host = $state<HTMLDivElement>();
  let plot: uPlot | undefined;
  let shape = "";
  let drawn: ArrayLike<number>[] = [];
  let columns: { x?: ArrayLike<number>; key: string; starts: number[] } = { key: "", starts: [] };

  /** Below so many pixels a column is flat. */
  const flat = 0.4;

  const css = (name: string) => (name.startsWith("--") ? getComputedStyle(document.documentElement).getPropertyValue(name).trim() : name);

  /**
   * The path of a line: first, least, greatest and last point of each column of pixels, at their true places, so that slopes stay smooth
   * and no extreme is lost.
   */
  const path: uPlot.Series.PathBuilder = (u, series, first, last) => {
    const line = lines[series - 1]!;
    const xs = u.data[0] as ArrayLike<number>;
    const ys = u.data[series] as ArrayLike<number>;
    const from = Math.max(0, first - 1);
    const to = Math.min(xs.length - 1, last + 1);
    const lift = line.lift ?? 0;
    const ax = u.valToPos(1, "x", true) - u.valToPos(0, "x", true);
    const bx = u.valToPos(0, "x", true);
    const ay = u.valToPos(1, "y", true) - u.valToPos(0, "y", true);
    const by = u.valToPos(0, "y", true) + ay * lift;
    const stroke = new Path2D();
    const key = [ax, bx, from, to].join();
    if (columns.x !== xs || columns.key !== key) columns = { x: xs, key, starts: columnsOf(xs, ax, bx, from, to) };
    const starts = columns.starts;
    for (let k = 0; k + 1 < starts.length; k++) {
      const first = starts[k]!;
      const last = starts[k + 1]! - 1;
      const [low, high] = extremes(ys, first, last);
      // Where a column is as good as flat one point draws the same line.
      if (k > 0 && k + 2 < starts.length && Math.abs(ay * (ys[high]! - ys[low]!)) < flat) {
        stroke.lineTo(bx + ax * xs[first]!, by + ay * ys[first]!);
        continue;
      }
      let before = -1;
      for (const i of [first, Math.min(low, high), Math.max(low, high), last]) {
        if (i > before) stroke.lineTo(bx + ax * xs[i]!, by + ay * ys[i]!);
        before = i;
      }
    }
    if (!line.fill) return { stroke };
    const fill = new Path2D(stroke);
    const base = u.valToPos(line.zero ?? 0, "y", true);
    fill.lineTo(bx + ax * xs[to]!, base);
    fill.lineTo(bx + ax * xs[from]!, base);
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
            paths: path,
            points: { show: false },
            pxAlign: 0,
          })),
        ],
        pxAlign: 0,
      },
      [x, ...drawn] as uPlot.AlignedData,
      host!,
    );
  }

  $effect(() => {
    const wanted = JSON.stringify([light.night, lines.map((l) => [l.colour, l.width, l.dash, l.fill])]);
    const data = lines.map((l) => l.y);
    const same = plot?.data[0] === x && data.length === drawn.length && data.every((y, i) => y === drawn[i]);
    drawn = data;
    if (!plot || shape !== wanted) {
      plot?.destroy();
      plot = build();
      shape = wanted;
      return;
    }
    const width = Math.max(1, f.x1 - f.x0);
    const height = Math.max(1, f.y0 - f.y1);
    if (plot.width !== width || plot.height !== height) plot.setSize({ width, height });
    plot.batch(() => {
      if (!same) plot!.setData([x, ...data] as uPlot.AlignedData, false);
      plot!.setScale("x", { min: f.from, max: f.to });
      plot!.setScale("y", { min: f.low, max: f.high });
      plot!.redraw(true, false);
    });
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
