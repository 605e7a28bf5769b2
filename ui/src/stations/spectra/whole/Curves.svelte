<script lang="ts">
  // Lines over time on one scale: as measured, or how much of one component there is, sample by sample.
  import { label as text, ticks } from "../../../plot/frame";

  let {
    label,
    times,
    lines,
    as = "first",
    axis = true,
    tall = 90,
    least = 1e-9,
  }: { label: string; times: number[][]; lines: number[][]; as?: string; axis?: boolean; tall?: number; least?: number } = $props();
  let wide = $state(280);
  const foot = $derived(axis ? 16 : 2);
  const from = $derived(Math.min(...times.map((t) => t[0] ?? Infinity)));
  const to = $derived(Math.max(...times.map((t) => t.at(-1) ?? -Infinity)));
  const low = $derived(Math.min(0, ...lines.map((l) => Math.min(...l))));
  const top = $derived(Math.max(least, ...lines.map((l) => Math.max(...l))) * 1.05);
  const x = (m: number) => ((m - from) / (to - from || 1)) * wide;
  const y = (v: number) => tall - foot - ((v - low) / (top - low)) * (tall - foot - 4);
  const path = (t: number[], l: number[]) => l.map((v, k) => `${k ? "L" : "M"}${x(t[k]!).toFixed(1)} ${y(v).toFixed(1)}`).join("");
  const scale = $derived(ticks(from, to, 4));
</script>

<div bind:clientWidth={wide}>
  <svg width={wide} height={tall} role="img" aria-label={label}>
    {#each lines as l, k (k)}<path d={path(times[k]!, l)} class={as} />{/each}
    <path d="M0 {tall - foot}H{wide}" class="axis" />
    {#if axis}
      {#each scale.at.filter((v) => x(v) > 14 && x(v) < wide - 40) as v (v)}<text class="tl" x={x(v)} y={tall - 3} text-anchor="middle"
          >{text(v, scale.decimals)}</text
        >{/each}
      <text class="tl" x={wide} y={tall - 3} text-anchor="end">min</text>
    {/if}
  </svg>
</div>

<style>
  svg {
    display: block;
  }
  path {
    fill: none;
    stroke: var(--ink);
    stroke-width: 1;
    opacity: 0.7;
  }
  .second {
    stroke: var(--ai);
    stroke-dasharray: 5 3;
  }
  .third {
    stroke: var(--kaki);
    stroke-dasharray: 2 2;
  }
  .fourth {
    stroke: var(--moss);
    stroke-dasharray: 7 2 2 2;
  }
  .rest {
    stroke: var(--ink-3);
    stroke-width: 0.8;
  }
  .background {
    stroke: var(--mist-3);
  }
  .axis {
    stroke: var(--mist-3);
    stroke-dasharray: none;
    opacity: 1;
  }
</style>
