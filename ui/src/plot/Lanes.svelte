<script lang="ts">
  // The other signals of the injection's file in lanes under the picture: the same time, each on its own scale.
  import { createQueries, createQuery } from "@tanstack/svelte-query";
  import type { Trace } from "../api/client";
  import { significant } from "../look/number";
  import { ask } from "../state/desk.svelte";
  import { frame } from "./frame";
  import type { Window } from "./window.svelte";

  let {
    batch,
    injection,
    traces,
    view,
    pointer,
    left = 50,
    right = 12,
  }: {
    batch: string;
    injection: string;
    /** Changes when another signal is processed. */
    traces: string;
    view: Window;
    /** The time under the pointer, min. */
    pointer: number | null;
    left?: number;
    right?: number;
  } = $props();

  const high = 46; // px of a lane
  let width = $state(900);
  const signals = createQuery(() => ask.signalsOf(batch, injection, traces));
  const others = $derived((signals.data ?? []).filter((s) => !s.processed));
  const queries = createQueries(() => ({ queries: others.map((s) => ask.signal(batch, injection, s.position)) }));

  function path(t: Trace, f: ReturnType<typeof frame>): string {
    const columns = Math.max(1, Math.round(f.x1 - f.x0));
    const n = t.value.length;
    let first = 0;
    while (first < n - 1 && t.min[first + 1]! < f.from) first++;
    let d = "";
    let column = -1;
    let low = 0;
    let top = 0;
    const draw = () => {
      if (column < 0) return;
      for (const i of low < top ? [low, top] : [top, low])
        d += `${d ? "L" : "M"}${f.sx(t.min[i]!).toFixed(1)} ${f.sy(t.value[i]!).toFixed(1)}`;
    };
    for (let i = first; i < n && t.min[i]! <= f.to; i++) {
      const c = Math.floor(((t.min[i]! - f.from) / (f.to - f.from)) * columns);
      if (c !== column) {
        draw();
        column = c;
        low = top = i;
      } else if (t.value[i]! < t.value[low]!) low = i;
      else if (t.value[i]! > t.value[top]!) top = i;
    }
    draw();
    return d;
  }
  function at(t: Trace, min: number): number | null {
    let a = 0;
    let b = t.min.length - 1;
    if (b < 0 || min < t.min[a]! || min > t.min[b]!) return null;
    while (b - a > 1) {
      const m = (a + b) >> 1;
      if (t.min[m]! <= min) a = m;
      else b = m;
    }
    return t.value[a]!;
  }
</script>

<div class="lanes" role="region" aria-label="Other signals of this injection" bind:clientWidth={width}>
  {#if signals.isError}<p class="att" role="alert">{signals.error.message}</p>{/if}
  {#each others as s, k (s.position)}
    {@const t = queries[k]?.data as Trace | undefined}
    {@const span = s.high - s.low || Math.abs(s.high) || 1}
    {@const f = frame(width, high, { l: left, r: right, t: 14, b: 4 }, [view.from, view.to], [s.low - 0.04 * span, s.high + 0.04 * span])}
    <svg {width} height={high} role="img" aria-label="{s.name}, {s.kind}">
      <path class="axis" d="M{f.x0} {high - 0.5}H{f.x1}" />
      <text class="tl" x={f.x0 - 6} y={f.y1 + 6} text-anchor="end">{significant(s.high, 3)}</text>
      <text class="tl" x={f.x0 - 6} y={f.y0} text-anchor="end">{s.high === s.low ? "" : significant(s.low, 3)}</text>
      {#if t}<path d={path(t, f)} fill="none" stroke="var({s.kind === 'condition' ? '--moss' : '--ink-2'})" stroke-width="1" />{/if}
      <text class="lb2 name" x={f.x0 + 4} y="11"
        >{s.name}{s.unit ? `, ${s.unit}` : ""}{#if pointer !== null && t}{@const v = at(t, pointer)}{#if v !== null}<tspan
              dx="6"
              style="fill:var(--ink);font-weight:600">{significant(v, 4)}</tspan
            >{/if}{/if}</text
      >
      {#if pointer !== null && pointer >= f.from && pointer <= f.to}<path
          d="M{f.sx(pointer)} 0V{high}"
          stroke="var(--ink)"
          stroke-width=".7"
          opacity=".6"
        />{/if}
    </svg>
  {:else}
    {#if signals.data}<p class="note">The file of this injection holds no other signal.</p>{/if}
  {/each}
</div>

<style>
  .lanes {
    flex: none;
    max-height: 40%;
    overflow-y: auto;
    padding-top: 2px;
  }
  .name {
    paint-order: stroke;
    stroke: var(--paper);
    stroke-width: 3px;
  }
  .note {
    padding: 4px 16px;
  }
</style>
