<script lang="ts" module>
  export type Line = { mins: number[]; values: number[]; class: string; close?: boolean };
</script>

<script lang="ts">
  // Quantities against time, drawn plainly: axes, lines, a moment, and whatever stands at a place.
  import type { Snippet } from "svelte";
  import { marks } from "./bench.svelte";

  let {
    lines,
    low,
    high,
    from = 0,
    to,
    unit,
    height = "100%",
    now,
    nowClass = "",
    axis = true,
    says = (v) => (v === 0 ? "0" : v.toLocaleString("en-GB").replace("-", "−")),
    label,
    over,
  }: {
    lines: Line[];
    low: number;
    high: number;
    from?: number;
    to: number;
    unit: string;
    height?: string;
    /** A moment that is marked, min. */ now?: number | undefined;
    nowClass?: string;
    /** Whether minutes stand beneath. */ axis?: boolean;
    /** A mark of the values in words. */ says?: (value: number) => string;
    label: string;
    over?: Snippet<[(min: number) => number, (value: number) => number, number]>;
  } = $props();
  let width = $state(600);
  let tall = $state(200);
  const left = 44;
  const foot = $derived(axis ? 20 : 4);
  const x = $derived((min: number) => left + ((min - from) / Math.max(1e-9, to - from)) * (width - left - 12));
  const y = $derived((v: number) => tall - foot - ((v - low) / Math.max(1e-9, high - low)) * (tall - foot - 14));
  const path = (l: Line) =>
    l.mins.length === 0
      ? ""
      : `M${l.mins.map((m, i) => `${x(m).toFixed(1)} ${y(Math.min(high * 1.02 + 1e-9, l.values[i]!)).toFixed(1)}`).join("L")}${l.close ? `L${x(l.mins.at(-1)!).toFixed(1)} ${y(low)}L${x(l.mins[0]!).toFixed(1)} ${y(low)}Z` : ""}`;
  const few = $derived(tall < 90 ? 2 : 99);
  const ticks = $derived.by(() => {
    const all = marks(low, high);
    return all.length > few ? [all[0]!, all.at(-1)!] : all;
  });
</script>

<div class="graph" style:height bind:clientWidth={width} bind:clientHeight={tall}>
  <svg {width} height={tall} role="img" aria-label={label}>
    <text class="unit" x="0" y="10">{unit}</text>
    {#each ticks as v (v)}<text class="mk" x={left - 8} y={y(v) + 3.5} text-anchor="end">{says(v)}</text><path
        class="tk"
        d="M{left - 5} {y(v)}H{left}"
      />{/each}
    {#if axis}<path class="axis" d="M{left} {tall - foot}H{width - 12}" />
      {#each marks(from, to) as m (m)}<path class="tk" d="M{x(m)} {tall - foot}v4" /><text
          class="mk"
          x={x(m)}
          y={tall - 4}
          text-anchor="middle">{m}</text
        >{/each}
      <text class="mk" x={width - 12} y={tall - 4} text-anchor="end" class:hid={x(marks(from, to).at(-1) ?? 0) > width - 40}>min</text>{/if}
    {#each lines as l, i (i)}<path class="line {l.class}" d={path(l)} />{/each}
    {#if now !== undefined}<path class="now {nowClass}" d="M{x(now)} 4V{tall - foot}" />{/if}
    {@render over?.(x, y, tall - foot)}
  </svg>
</div>

<style>
  .graph {
    position: relative;
    min-height: 0;
    min-width: 0;
    overflow: hidden;
  }
  svg {
    position: absolute;
    inset: 0;
  }
  .mk,
  .unit {
    font-size: 11px;
    fill: var(--ink-3);
  }
  .hid {
    visibility: hidden;
  }
  .axis,
  .tk {
    stroke: var(--mist-3);
    stroke-width: 1;
    fill: none;
  }
  .line {
    fill: none;
    stroke: var(--ink);
    stroke-width: var(--l-trace);
    stroke-linejoin: round;
  }
  .line.behind {
    fill: var(--far-a);
    stroke: none;
  }
  .line.second {
    stroke: var(--ochre);
  }
  .line.third {
    stroke: var(--ai);
  }
  .line.fourth {
    stroke: var(--moss);
  }
  .line.will {
    stroke: var(--ink-3);
    stroke-dasharray: 1 3;
  }
  .line.asked {
    stroke: var(--mist-2);
    stroke-dasharray: 2 3;
  }
  .line.limit {
    stroke: var(--ochre);
    stroke-dasharray: 6 4;
  }
  .now {
    stroke: var(--ink);
    stroke-width: 1.2;
  }
  .now.att {
    stroke: var(--kaki);
    stroke-width: 2;
  }
</style>
