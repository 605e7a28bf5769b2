<script lang="ts">
  // A small picture of evidence: what was found over what it is held against, on one scale of 0 to 100.
  import { label as text, ticks } from "../../plot/frame";

  type Line = { points: [number, number][]; as: "own" | "reference"; name: string };
  let {
    label,
    unit,
    from,
    to,
    band,
    lines,
    sticks = false,
  }: {
    label: string;
    unit: string;
    from?: number;
    to?: number;
    /** What is permitted on the axis. */ band?: [number, number] | undefined;
    lines: Line[];
    /** Lines of masses, the reference downwards. */ sticks?: boolean;
  } = $props();
  let wide = $state(280);
  const tall = 84;
  const foot = 16;
  const all = $derived(lines.flatMap((l) => (sticks ? l.points.filter((p) => p[1] >= 2) : l.points)));
  const low = $derived(from ?? Math.min(...all.map((p) => p[0])) - (sticks ? 3 : 0));
  const high = $derived(to ?? Math.max(...all.map((p) => p[0])) + (sticks ? 3 : 0));
  const top = $derived(Math.max(1, ...all.map((p) => p[1])) * 1.06);
  const middle = $derived(sticks ? (tall - foot) / 2 + 4 : tall - foot);
  const x = (v: number) => ((v - low) / (high - low || 1)) * wide;
  const y = (v: number) => middle - (Math.max(v, -0.04 * top) / top) * (middle - 4);
  const down = (v: number) => middle + (v / top) * (tall - foot - middle - 2);
  const path = (l: Line) => l.points.map((p, k) => `${k ? "L" : "M"}${x(p[0]).toFixed(1)} ${y(p[1]).toFixed(1)}`).join("");
  const stick = (l: Line) =>
    l.points
      .filter((p) => p[1] >= 1)
      .map((p) => `M${x(p[0]).toFixed(1)} ${middle.toFixed(1)}V${(l.as === "own" ? y(p[1]) : down(p[1])).toFixed(1)}`)
      .join("");
  const scale = $derived(ticks(low, high, 5));
</script>

<div class="plot" bind:clientWidth={wide}>
  {#if all.length}
    <svg width={wide} height={tall} role="img" aria-label={label}>
      {#if band}<rect x={x(band[0])} width={Math.max(1, x(band[1]) - x(band[0]))} y="2" height={middle - 2} class="band" />{/if}
      <path d="M0 {middle}H{wide}" class="axis" />
      {#each lines as l (l.as)}<path d={sticks ? stick(l) : path(l)} class={l.as} class:sticks />{/each}
      {#each scale.at.filter((v) => x(v) > 12 && x(v) < wide - 36) as v (v)}<text class="tl" x={x(v)} y={tall - 3} text-anchor="middle"
          >{text(v, scale.decimals)}</text
        >{/each}
      <text class="tl" x={wide} y={tall - 3} text-anchor="end">{unit}</text>
    </svg>
    <p class="names">
      {#each lines.filter((l) => l.name && l.points.length) as l (l.as)}<span class={l.as}>{l.name}</span>{/each}
    </p>
  {/if}
</div>

<style>
  .plot {
    margin: 2px 0;
  }
  svg {
    display: block;
    overflow: hidden;
  }
  .band {
    fill: var(--w-mist-a);
  }
  .axis {
    stroke: var(--mist-3);
  }
  path.own {
    fill: none;
    stroke: var(--ink);
    stroke-width: 1.4;
  }
  path.reference {
    fill: none;
    stroke: var(--ai);
    stroke-width: 1.3;
    stroke-dasharray: 4 3;
  }
  path.sticks {
    stroke-dasharray: none;
    stroke-width: 1.6;
  }
  .names {
    display: flex;
    justify-content: space-between;
    gap: 10px;
    font-size: 11.5px;
    line-height: 15px;
  }
  .names .reference {
    color: var(--ai);
  }
</style>
