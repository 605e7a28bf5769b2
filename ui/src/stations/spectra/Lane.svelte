<script lang="ts">
  // The trace of chosen ions under the chromatogram, on the same time axis and a scale of its own.
  import { createQuery } from "@tanstack/svelte-query";
  import { label, ticks } from "../../plot/frame";
  import type { Window } from "../../plot/window.svelte";
  import { ask } from "../../state/ask";
  import { desk } from "../../state/desk.svelte";
  import { shown } from "./spectra.svelte";

  let {
    batch,
    injection,
    words,
    view,
    at,
  }: { batch: string; injection: string; words: string; view: Window; at: [number, number] | null } = $props();
  const query = createQuery(() => ask.ions(batch, injection, words));
  let wide = $state(800);
  const tall = 62;
  const left = 50;
  const right = 12;
  const x = (min: number) => left + ((min - view.from) / (view.to - view.from)) * (wide - left - right);
  const top = $derived.by(() => {
    let most = 1e-9;
    const t = query.data;
    if (t) for (let i = 0; i < t.min.length; i++) if (t.min[i]! >= view.from && t.min[i]! <= view.to) most = Math.max(most, t.value[i]!);
    return most * 1.05;
  });
  const y = (v: number) => tall - 4 - (Math.max(0, v) / top) * (tall - 16);
  const path = $derived.by(() => {
    const t = query.data;
    if (!t) return "";
    let d = "";
    for (let i = 0; i < t.min.length; i++) {
      const m = t.min[i]!;
      if (m < view.from - 0.05 || m > view.to + 0.05) continue;
      d += `${d ? "L" : "M"}${x(m).toFixed(1)} ${y(t.value[i]!).toFixed(1)}`;
    }
    return d;
  });
  const scale = $derived(ticks(0, top, 2));
</script>

<div class="lane" bind:clientWidth={wide}>
  <svg width={wide} height={tall} role="img" aria-label="m/z {words}">
    {#if at}<rect x={x(at[0])} width={Math.max(1, x(at[1]) - x(at[0]))} y="0" height={tall} class="here" />{/if}
    <path d="M{left} {y(0)}H{wide - right}" class="axis" />
    {#each scale.at as v (v)}<text class="tl" x={left - 8} y={y(v) + 4} text-anchor="end">{label(v, scale.decimals)}</text>{/each}
    <path class="line" d={path} />
    <text class="name" x={left + 6} y="12">m/z {words.replace("±", " ± ")}</text>
  </svg>
  <span class="do">
    <button
      class="lnk"
      title="Integrates this trace in every injection, as a channel of the method: compounds can be looked for and quantified in it"
      onclick={() => void desk.addChannel({ kind: "ions", words })}>process too</button
    >
    <button
      class="mut"
      title="Takes this trace away; it can be had back"
      aria-label="Take m/z {words} away"
      onclick={() => shown.take(words)}>×</button
    >
  </span>
</div>

<style>
  .lane {
    position: relative;
    flex: none;
  }
  svg {
    display: block;
  }
  .do {
    position: absolute;
    right: 16px;
    top: 0;
    display: flex;
    gap: 10px;
    align-items: baseline;
    font-size: 12px;
    background: var(--paper);
    padding-left: 6px;
  }
  .line {
    fill: none;
    stroke: var(--ink);
    stroke-width: 1.1;
  }
  .axis {
    stroke: var(--mist-3);
  }
  .here {
    fill: var(--row-kaki);
  }
  .name {
    font-size: 12.5px;
    font-weight: 500;
    fill: var(--ink);
  }
</style>
