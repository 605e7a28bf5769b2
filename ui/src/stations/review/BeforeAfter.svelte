<script lang="ts">
  // A change before and after: the peak over its trace with both baselines, or the curve with the point that was left out.
  import type { BeforeAfter } from "../../api/client";
  import { fixed, significant } from "../../look/number";

  let {
    drawn,
    width,
    height,
    axes = false,
    hold = false,
  }: { drawn: BeforeAfter; width: number; height: number; axes?: boolean; hold?: boolean } = $props();
  const foot = $derived(axes ? 16 : 2);
  const gutter = $derived(axes ? 34 : 2);
  const peaks = $derived([drawn.before, drawn.after].filter((p) => p !== null));
  const inside = (x: number) => peaks.length === 0 || peaks.some((p) => x >= p.start_min && x <= p.end_min);
  const ys = $derived(
    drawn.points?.length
      ? [...drawn.points.map((p) => p.y), ...drawn.lines.flat()]
      : [...drawn.y.filter((_, k) => inside(drawn.x[k]!)), ...peaks.flatMap((p) => [p.baseline_start, p.baseline_end])],
  );
  const low = $derived(Math.min(...ys));
  const high = $derived(Math.max(...ys));
  const left = $derived(drawn.x[0] ?? 0);
  const right = $derived(drawn.x.at(-1) ?? 1);
  const sx = (x: number) => gutter + ((x - left) / (right - left || 1)) * (width - gutter - 2);
  const sy = (y: number) => 4 + (1 - (y - low) / (high - low || 1)) * (height - foot - 6);
  const line = (xs: number[], values: number[]) =>
    xs.map((x, k) => `${k ? "L" : "M"}${sx(x).toFixed(1)} ${sy(values[k]!).toFixed(1)}`).join("");
  type Peak = NonNullable<BeforeAfter["before"]>;
  const base = (p: Peak) => `M${sx(p.start_min)} ${sy(p.baseline_start)}L${sx(p.end_min)} ${sy(p.baseline_end)}`;
  const area = (p: Peak) => {
    const at = drawn.x.map((x, k) => [x, drawn.y[k]!] as const).filter(([x]) => x >= p.start_min && x <= p.end_min);
    if (at.length === 0) return "";
    return `M${sx(p.start_min)} ${sy(p.baseline_start)}${at.map(([x, y]) => `L${sx(x).toFixed(1)} ${sy(y).toFixed(1)}`).join("")}L${sx(p.end_min)} ${sy(p.baseline_end)}Z`;
  };
  const ticks = $derived.by(() => {
    const step = [0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500].find((s) => (right - left) / s <= 5) ?? 1000;
    const first = Math.ceil(left / step) * step;
    return Array.from({ length: Math.floor((right - first) / step + 1e-9) + 1 }, (_, k) => first + k * step);
  });
  const says = $derived(
    drawn.points?.length
      ? "The curve with and without the point"
      : `Area before ${drawn.before ? significant(drawn.before.area_s, 4) : "none"}, after ${drawn.after ? significant(drawn.after.area_s, 4) : "none"}`,
  );
</script>

<svg {width} {height} viewBox="0 0 {width} {height}" role="img" aria-label={says}>
  {#if drawn.points?.length}
    <path class="before" d={line(drawn.x, drawn.lines[0]!)} />
    {#if !hold}<path class="curve" d={line(drawn.x, drawn.lines[1]!)} />{/if}
    {#each drawn.points as p, k (k)}
      <circle class={p.left_out ? "out" : "in"} cx={sx(p.x)} cy={sy(p.y)} r={axes ? 3 : 2} />
      {#if p.left_out}<path class="out" d="M{sx(p.x) - 4} {sy(p.y) - 4}l8 8m0 -8l-8 8" />{/if}
    {/each}
  {:else}
    {#if drawn.after && !hold}<path class="area" d={area(drawn.after)} />{/if}
    {#if drawn.before && hold}<path class="area was" d={area(drawn.before)} />{/if}
    <path class="trace" d={line(drawn.x, drawn.y)} />
    {#if drawn.before}
      <path class="before" d={base(drawn.before)} />
      {#each [[drawn.before.start_min, drawn.before.baseline_start], [drawn.before.end_min, drawn.before.baseline_end]] as [x, y] (x)}
        <path class="before" d="M{sx(x!)} {sy(y!) - 5}v10" />
      {/each}
    {/if}
    {#if drawn.after && !hold}<path class="base" d={base(drawn.after)} />{/if}
  {/if}
  {#if axes}
    <line x1={gutter} x2={width} y1={height - foot} y2={height - foot} />
    {#each ticks as t (t)}<text x={sx(t)} y={height - 3} text-anchor="middle">{fixed(t, right - left < 2 ? 1 : 0)}</text>{/each}
    {#each [low, high] as y (y)}<text x={gutter - 4} y={sy(y) + 4} text-anchor="end">{significant(y, 2)}</text>{/each}
  {/if}
</svg>

<style>
  svg {
    display: block;
    overflow: hidden;
  }
  path {
    fill: none;
    stroke-width: 1.2;
  }
  .trace {
    stroke: var(--ink);
  }
  .area {
    fill: var(--ai-fill, color-mix(in oklab, var(--ai) 42%, var(--paper)));
  }
  .area.was {
    fill: color-mix(in oklab, var(--kaki) 26%, var(--paper));
  }
  .base,
  .curve {
    stroke: var(--ai);
  }
  .before {
    stroke: var(--kaki);
    stroke-dasharray: 1.5 2;
  }
  .in {
    fill: var(--ink);
  }
  .out {
    fill: none;
    stroke: var(--kaki);
    stroke-width: 1.3;
  }
  line {
    stroke: var(--mist-3);
  }
  text {
    font-size: 11px;
    fill: var(--ink-2);
    font-variant-numeric: tabular-nums;
  }
</style>
