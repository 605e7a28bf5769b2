<script lang="ts">
  // A control chart: recoveries of one compound's checks between the method's limits, over this batch in run order or over all batches
  // of the study.
  import { createQuery } from "@tanstack/svelte-query";
  import type { Batch, Compound, Result } from "../../api/client";
  import { fixed } from "../../look/number";
  import { frame, label, ticks } from "../../plot/frame";
  import { ask } from "../../state/ask";
  import { place } from "../../state/place.svelte";

  let {
    batch,
    result,
    compound,
    all,
  }: { batch: Batch; result: Result; compound: Compound; /** All batches of the study. */ all: boolean } = $props();
  const control = createQuery(() => ({ ...ask.control(batch.id, batch.revision, compound.id), enabled: all }));
  let width = $state(900);
  const height = 150;
  const rows = $derived(
    all
      ? (control.data ?? []).map((c, at) => ({ ...c, at, first: at === 0 || control.data![at - 1]!.batch_id !== c.batch_id }))
      : result.checks
          .filter((c) => c.compound_id === compound.id)
          .map((c) => {
            const at = batch.injections.findIndex((i) => i.id === c.injection_id);
            return { ...c, at, name: batch.injections[at]?.name ?? "", batch: "", batch_id: batch.id, first: false };
          }),
  );
  const across = $derived(all ? Math.max(1, rows.length) : batch.injections.length);
  const mean = $derived(rows.reduce((a, r) => a + r.recovery_percent, 0) / (rows.length || 1));
  const sd = $derived(Math.sqrt(rows.reduce((a, r) => a + (r.recovery_percent - mean) ** 2, 0) / Math.max(1, rows.length - 1)));
  const limits = $derived(batch.version.method.checks);
  const low = $derived(limits.recovery_low_percent || 90);
  const high = $derived(limits.recovery_high_percent || 110);
  const f = $derived(
    frame(
      width,
      height,
      { l: 50, r: 24, t: 12, b: 24 },
      [-0.5, across - 0.5],
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
    {#if all && rows.length > 4}
      {#each [-2, 2] as k (k)}<path d="M{f.x0} {f.sy(mean + k * sd)}H{f.x1}" stroke="var(--mist-3)" stroke-dasharray="1.5 3" />{/each}
      <text class="tl" x={f.x1} y={f.sy(mean + 2 * sd) - 4} text-anchor="end">mean {fixed(mean, 1)} ± 2 SD</text>
    {/if}
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
      <g
        class="pt"
        style="color:var({r.outside ? '--kaki' : '--ink'})"
        onclick={() => place.go({ batch: r.batch_id, query: { i: r.injection_id } }, false)}
      >
        <path d="M{x} {y - 5}l5 5l-5 5l-5 -5Z" fill="currentColor" />
        <text
          class="lb2"
          {x}
          y={labelY(y)}
          text-anchor="middle"
          style="fill:var({r.outside ? '--kaki-text' : '--ink-2'});font-weight:{r.outside ? 600 : 400}">{fixed(r.recovery_percent, 1)}</text
        >
        {#if !all}<text class="tl" {x} y={height - 6} text-anchor="middle">{r.name}</text>
        {:else if r.first}<path d="M{x - 4} {f.y0}v6" stroke="var(--mist-3)" /><text class="tl" x={x - 4} y={height - 6}>{r.batch}</text
          >{/if}
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
