<script lang="ts">
  // The other signals of the injection in lanes under the picture: the same time, each on its own scale, one pointer through all.
  import { createQueries, createQuery } from "@tanstack/svelte-query";
  import type { Trace } from "../api/client";
  import { significant } from "../look/number";
  import { ask } from "../state/ask";
  import { signals as chosen } from "../state/signals.svelte";
  import { frame } from "./frame";
  import { pathOf, scaleAround, valueAt } from "./thin";
  import type { Window } from "./window.svelte";

  let {
    batch,
    injection,
    traces,
    view,
    pointer,
    moments = [],
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
    /** What happened when, told through all lanes. */
    moments?: { at: number; name: string; says: string }[];
    left?: number;
    right?: number;
  } = $props();

  let high = $state(50); // px of a lane
  let width = $state(900);
  const signals = createQuery(() => ask.signalsOf(batch, injection, traces));
  const others = $derived((signals.data ?? []).filter((s) => !s.processed));
  const seen = $derived(others.filter((s) => !chosen.hidden(s)));
  const queries = createQueries(() => ({ queries: seen.map((s) => ask.signal(batch, injection, s.position)) }));

  /** The edge of a lane is dragged: all become as high. */
  function drag(e: PointerEvent) {
    const start = e.clientY;
    const was = high;
    const el = e.currentTarget as HTMLElement;
    el.setPointerCapture(e.pointerId);
    const move = (ev: PointerEvent) => (high = Math.max(34, Math.min(160, was + ev.clientY - start)));
    const up = () => {
      el.removeEventListener("pointermove", move);
      el.removeEventListener("pointerup", up);
    };
    el.addEventListener("pointermove", move);
    el.addEventListener("pointerup", up);
  }
</script>

<div class="lanes" role="region" aria-label="Other signals of this injection" bind:clientWidth={width}>
  {#if signals.isError}<p class="att" role="alert">{signals.error.message}</p>{/if}
  {#each seen as s, k (s.position)}
    {@const t = queries[k]?.data as Trace | undefined}
    {@const [low, top] = scaleAround(s.low, s.high)}
    {@const span = top - low}
    {@const f = frame(width, high, { l: left, r: right, t: 15, b: 5 }, [view.from, view.to], [low - 0.04 * span, top + 0.04 * span])}
    <div class="lane">
      <svg {width} height={high} role="img" aria-label="{s.name}, {s.kind}">
        <path class="axis" d="M{f.x0} {high - 0.5}H{f.x1}" />
        {#each moments.filter((m) => m.at > f.from && m.at < f.to) as m (m.at)}
          <rect x={f.sx(m.at) - 4} y="0" width="8" height={high} fill="var(--row-kaki)" />
          <path d="M{f.sx(m.at)} 0V{high}" stroke="var(--kaki)" stroke-width="1" />
          {#if m.name === s.name}<text class="tl says" x={f.sx(m.at) + 8} y={high - 10}>{m.says}</text>{/if}
        {/each}
        <text class="tl" x={f.x0 - 6} y={f.y1 + 6} text-anchor="end">{significant(top, 3)}</text>
        <text class="tl" x={f.x0 - 6} y={f.y0} text-anchor="end">{significant(low, 3)}</text>
        {#if t}<path d={pathOf(t, f)} fill="none" stroke="var({s.kind === 'condition' ? '--ochre' : '--ink-2'})" stroke-width="1.1" />{/if}
        <text class="lb2 name" x={f.x0 + 4} y="11"
          >{s.name}{s.unit ? `, ${s.unit}` : ""}{#if pointer !== null && t}{@const v = valueAt(t, pointer)}{#if v !== null}<tspan
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
      <span class="edge" aria-hidden="true" onpointerdown={drag}></span>
    </div>
  {:else}
    {#if signals.data}<p class="note">
        {others.length
          ? "All other signals are hidden; the list at the side shows them again."
          : "No pressure, gradient or second detector came with this injection."}
      </p>{/if}
  {/each}
</div>

<style>
  .lanes {
    flex: none;
    max-height: 46%;
    overflow-y: auto;
    padding-top: 2px;
  }
  .lane {
    position: relative;
    display: grid;
  }
  .edge {
    position: absolute;
    bottom: 0;
    left: 0;
    right: 0;
    height: 5px;
    cursor: row-resize;
    touch-action: none;
  }
  .name,
  .says {
    paint-order: stroke;
    stroke: var(--paper);
    stroke-width: 3px;
  }
  .says {
    fill: var(--kaki-text);
    font-weight: 600;
  }
  .note {
    padding: 4px 16px;
  }
</style>
