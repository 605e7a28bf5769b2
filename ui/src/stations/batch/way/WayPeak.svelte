<script lang="ts">
  // All files over each other, the peak they share with its feet, and the field for what only a person knows: its name.
  import { createQueries, createQuery } from "@tanstack/svelte-query";
  import type { Batch, Trace, WholeWay } from "../../../api/client";
  import { fixed } from "../../../look/number";
  import Axes from "../../../plot/Axes.svelte";
  import { frame } from "../../../plot/frame";
  import { ask } from "../../../state/ask";
  import { place } from "../../../state/place.svelte";
  import { way } from "./way.svelte";

  let { batch, whole, keep }: { batch: Batch; whole: WholeWay; /** Keeps the named peak. */ keep: () => void } = $props();
  let width = $state(480);
  const height = 200;
  const traces = createQueries(() => ({ queries: batch.injections.map((i) => ask.trace(batch.id, i.id, "")) }));
  const names = createQuery(() => ask.compoundNames());
  const list = $derived(traces.map((t) => t.data as Trace | undefined));
  const ends = $derived.by(() => {
    let to = 0;
    let high = 0;
    let low = Infinity;
    for (const t of list) {
      if (!t) continue;
      to = Math.max(to, t.min.at(-1) ?? 0);
      for (const v of t.value) {
        if (v > high) high = v;
        if (v < low) low = v;
      }
    }
    return { to: to || 1, high: high || 1, low: Number.isFinite(low) ? Math.min(0, low) : 0 };
  });
  const f = $derived(frame(width, height, { l: 42, r: 10, t: 26, b: 26 }, [0, ends.to], [ends.low, ends.high * 1.06]));
  /** The highest and lowest value of each column of pixels, so that nothing narrow is lost. */
  function outline(t: Trace): string {
    const columns = Math.max(1, Math.round(f.x1 - f.x0));
    const n = t.value.length;
    let d = "";
    for (let c = 0; c < columns; c++) {
      const from = Math.floor((c * n) / columns);
      const to = Math.max(from + 1, Math.floor(((c + 1) * n) / columns));
      let top = from;
      for (let i = from; i < to && i < n; i++) if (t.value[i]! > t.value[top]!) top = i;
      if (top < n) d += `${d ? "L" : "M"}${f.sx(t.min[top]!).toFixed(1)} ${f.sy(t.value[top]!).toFixed(1)}`;
    }
    return d;
  }
  const peak = $derived(whole.peak);
  const named = $derived(batch.version.method.compounds[0]);
  const at = $derived(peak ? peak.apex_min : (named?.expected_min ?? 0));
  const field = $derived(Math.min(f.x1 - 170, Math.max(f.x0 + 4, f.sx(at) + 14)));
  const said = $derived(way.ask(batch));
  function typed(e: KeyboardEvent & { currentTarget: HTMLInputElement }) {
    if (e.key === "Escape") e.currentTarget.blur();
    if (e.key !== "Enter" || e.shiftKey || !e.currentTarget.value.trim()) return;
    e.preventDefault();
    e.currentTarget.blur();
    keep();
  }
</script>

<div class="plot" bind:clientWidth={width}>
  <svg {width} {height} role="img" aria-label="All files over each other">
    <Axes {f} unitY={batch.injections[0]?.unit ?? ""} across={8} up={4} />
    {#each list as t, i (batch.injections[i]!.id)}
      {#if t}
        {@const own = batch.injections[i]!.id === place.query.i}
        {@const sample = whole.rows[i]?.role === "sample"}
        <path
          d={outline(t)}
          fill="none"
          stroke={sample ? "var(--kaki)" : own ? "var(--ink)" : "var(--ink-3)"}
          stroke-width={own ? 1.6 : 1}
          opacity={own || sample ? 1 : 0.75}
        />
      {/if}
    {/each}
    {#if peak}
      <path
        d="M{f.sx(peak.start_min)} {f.y0}V{f.y0 - 7}M{f.sx(peak.start_min)} {f.y0}H{f.sx(peak.end_min)}M{f.sx(peak.end_min)} {f.y0}v-7"
        stroke="var(--ai)"
        stroke-width="1.4"
        stroke-dasharray="1.5 2.5"
        fill="none"
      />
    {/if}
    {#each whole.others as o (o)}
      <g
        class="other"
        role="button"
        tabindex="0"
        aria-label="Take the peak at {fixed(o, 2)} min"
        onclick={() => way.say(batch, { apex_min: o })}
        onkeydown={(e) => e.key === "Enter" && (e.stopPropagation(), way.say(batch, { apex_min: o }))}
      >
        <title>All files have a peak here too: take this one</title>
        <rect x={f.sx(o) - 18} y={f.y0 - 30} width="36" height="30" fill="transparent" />
        <text class="tl" x={f.sx(o)} y={f.y0 - 12} text-anchor="middle">{fixed(o, 2)}</text>
      </g>
    {/each}
  </svg>
  {#if peak}
    <label class="name" style="left:{field}px"
      ><span class="hidden">Name of the peak at {fixed(peak.apex_min, 2)} min</span>
      <!-- svelte-ignore a11y_autofocus (the one thing that is asked here) -->
      <input
        class="field"
        autofocus={batch.injections.length > 1}
        maxlength="100"
        placeholder={whole.offered ? `${whole.offered}?` : "what is it?"}
        title="What this peak is; Enter keeps it"
        list="known-names"
        value={said.name}
        oninput={(e) => way.say(batch, { name: e.currentTarget.value })}
        onkeydown={typed}
      />
      <datalist id="known-names"
        >{#each names.data ?? [] as n (n)}<option value={n}></option>{/each}</datalist
      >
      <span class="note">{fixed(peak.apex_min, 2)} ± {fixed(peak.spread_min, 3)} min in all</span></label
    >
  {:else if named}
    <span class="name is" style="left:{field}px">{named.name} <span class="note">{fixed(named.expected_min, 2)} min</span></span>
  {/if}
</div>
{#if whole.offered && peak && !said.name}
  <p class="note">
    Every name carries <button class="lnk" onclick={() => way.say(batch, { name: whole.offered })}>{whole.offered}</button>: is it that?
  </p>
{/if}

<style>
  .plot {
    position: relative;
  }
  .name {
    position: absolute;
    top: 6px;
    width: 170px;
    background: var(--paper);
  }
  .name.is {
    font-weight: 500;
  }
  .name .field {
    width: 100%;
    background: var(--sheet);
    color: #1b1e25;
    outline: 2px solid var(--ai);
    outline-offset: -1px;
    border-bottom: 2px solid var(--kaki);
  }
  .name .field::placeholder {
    color: #5d616b; /* the field is as light as paper in Night too */
  }
  .hidden {
    position: absolute;
    clip-path: inset(50%);
  }
  .other {
    cursor: pointer;
  }
</style>
