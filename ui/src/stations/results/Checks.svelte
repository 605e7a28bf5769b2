<script lang="ts">
  // Recoveries of one compound's checks in run order, between the method's limits.
  import type { Batch, Compound, Result } from "../../api/client";
  import { fixed } from "../../look/number";
  import { frame, label, ticks } from "../../plot/frame";
  import { place } from "../../state/place.svelte";

  let { batch, result, compound }: { batch: Batch; result: Result; compound: Compound } = $props();
  let width = $state(900);
  const height = 150;
  const rows = $derived(
    result.checks
      .filter((c) => c.compound_id === compound.id)
      .map((c) => ({ ...c, at: batch.injections.findIndex((i) => i.id === c.injection_id) })),
  );
  const limits = $derived(batch.version.method.checks);
  const low = $derived(limits.recovery_low_percent || 90);
  const high = $derived(limits.recovery_high_percent || 110);
  const f = $derived(
    frame(
      width,
      height,
      { l: 50, r: 24, t: 12, b: 24 },
      [-0.5, batch.injections.length - 0.5],
      [Math.min(low - 6, ...rows.map((r) => r.recovery_percent - 5)), Math.max(high + 4, ...rows.map((r) => r.recovery_percent + 3))],
    ),
  );
  /** The number stands over its point, or under it where a limit or the 100 % line would cross it. */
  const labelY = (y: number) => ([low, 100, high].some((v) => Math.abs(f.sy(v) - (y - 14)) < 7) ? y + 18 : y - 10);
  const yt = $derived(ticks(f.low, f.high, 4));
</script>

<div class="checks" bind:clientWidth={width}>
  <svg {width} {height} role="img" aria-label="Recovery of {compound.name} in the checks">
    <rect x={f.x0} y={f.sy(high)} width={f.x1 - f.x0} height={f.sy(low) - f.sy(high)} fill="var(--w-mist-b)" />
    <path d="M{f.x0} {f.sy(high)}H{f.x1}M{f.x0} {f.sy(low)}H{f.x1}" stroke="var(--ochre)" stroke-dasharray="5 3" />
    <path d="M{f.x0} {f.sy(100)}H{f.x1}" stroke="var(--mist-3)" />
    {#each yt.at as v (v)}<text class="tl" x={f.x0 - 8} y={f.sy(v) + 4} text-anchor="end">{label(v, yt.decimals)} %</text>{/each}
    <path
      d={rows.map((r, i) => `${i ? "L" : "M"}${f.sx(r.at)} ${f.sy(r.recovery_percent)}`).join("")}
      fill="none"
      stroke="var(--ink)"
      stroke-width="1.2"
    />
    {#each rows as r (r.injection_id)}
      {@const x = f.sx(r.at)}
      {@const y = f.sy(r.recovery_percent)}
      <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
      <g class="pt" style="color:var({r.outside ? '--kaki' : '--ink'})" onclick={() => place.go({ query: { i: r.injection_id } }, false)}>
        <path d="M{x} {y - 5}l5 5l-5 5l-5 -5Z" fill="currentColor" />
        <text
          class="lb2"
          {x}
          y={labelY(y)}
          text-anchor="middle"
          style="fill:var({r.outside ? '--kaki-text' : '--ink-2'});font-weight:{r.outside ? 600 : 400}">{fixed(r.recovery_percent, 1)}</text
        >
        <text class="tl" {x} y={height - 6} text-anchor="middle">{batch.injections[r.at]?.name}</text>
      </g>
    {/each}
  </svg>
</div>

<style>
  .checks {
    flex: none;
    margin-right: 12px;
  }
  .pt {
    cursor: pointer;
  }
</style>
