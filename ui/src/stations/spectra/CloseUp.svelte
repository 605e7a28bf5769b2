<script lang="ts">
  // The peak close up, with the stretch that its spectrum is the mean of and those that are taken off; each is dragged by its edges.
  import type { Identified, Trace } from "../../api/client";
  import { label, ticks } from "../../plot/frame";
  import { shown } from "./spectra.svelte";

  let { trace, found }: { trace: Trace | undefined; found: Identified | undefined } = $props();
  let wide = $state(280);
  const tall = 168;
  const pad = 6;
  const range = $derived.by<[number, number]>(() => {
    if (!found) return [0, 1];
    const edges = [found.from_min, found.to_min, ...found.background.flat()] as number[];
    const span = Math.max(...edges) - Math.min(...edges);
    return [Math.min(...edges) - 0.15 * span - 0.02, Math.max(...edges) + 0.15 * span + 0.02];
  });
  const x = (min: number) => pad + ((min - range[0]) / (range[1] - range[0])) * (wide - 2 * pad);
  const back = (px: number) => range[0] + ((px - pad) / (wide - 2 * pad)) * (range[1] - range[0]);
  const seen = $derived.by(() => {
    const list: [number, number][] = [];
    if (trace)
      for (let i = 0; i < trace.min.length; i++)
        if (trace.min[i]! >= range[0] && trace.min[i]! <= range[1]) list.push([trace.min[i]!, trace.value[i]!]);
    return list;
  });
  const low = $derived(Math.min(...seen.map((p) => p[1]), Infinity));
  const high = $derived(Math.max(...seen.map((p) => p[1]), -Infinity));
  const y = (v: number) => tall - 24 - ((v - low) / (high - low || 1)) * (tall - 36);
  const path = $derived(seen.map(([m, v], k) => `${k ? "L" : "M"}${x(m).toFixed(1)} ${y(v).toFixed(1)}`).join(""));
  const scale = $derived(ticks(range[0], range[1], 4));

  let dragging = $state.raw<{ which: number; ends: [number, number] } | null>(null);
  /** which is −1 for the peak's own stretch, else the place of a background. */
  function drag(event: PointerEvent, which: number, ends: [number, number], end: 0 | 1) {
    event.preventDefault();
    const box = (event.currentTarget as Element).closest("svg")!.getBoundingClientRect();
    const at = (e: PointerEvent): [number, number] => {
      const now: [number, number] = [...ends];
      now[end] = Math.max(range[0], Math.min(range[1], back(e.clientX - box.left)));
      return now[0] <= now[1] ? now : [now[1], now[0]];
    };
    const moved = (e: PointerEvent) => (dragging = { which, ends: at(e) });
    const done = (e: PointerEvent) => {
      removeEventListener("pointermove", moved);
      removeEventListener("pointerup", done);
      const now = at(e);
      dragging = null;
      if (which < 0) shown.stretch = now;
      else shown.background = (found?.background as [number, number][]).map((b, k) => (k === which ? now : b));
    };
    addEventListener("pointermove", moved);
    addEventListener("pointerup", done);
  }
  const stretches = $derived<[number, [number, number]][]>(
    found
      ? [[-1, [found.from_min, found.to_min]], ...found.background.map((b, k): [number, [number, number]] => [k, b as [number, number]])]
      : [],
  );
</script>

<div class="close" bind:clientWidth={wide}>
  <svg width={wide} height={tall} role="img" aria-label="The peak, with what its spectrum is taken of">
    {#each stretches as [which, ends] (which)}
      {@const e = dragging?.which === which ? dragging.ends : ends}
      <rect x={x(e[0])} width={Math.max(2, x(e[1]) - x(e[0]))} y="4" height={tall - 28} class={which < 0 ? "own" : "off"} />
      {#each [0, 1] as const as end (end)}
        <!-- svelte-ignore a11y_no_static_element_interactions (the spectrum is taken of the peak without them) -->
        <rect x={x(e[end]) - 4} width="8" y="4" height={tall - 28} class="edge" onpointerdown={(ev) => drag(ev, which, ends, end)} />
      {/each}
    {/each}
    <path d={path} class="line" />
    <path d="M{pad} {tall - 24}H{wide - pad}" class="axis" />
    {#each scale.at as v (v)}<text class="tl" x={x(v)} y={tall - 8} text-anchor="middle">{label(v, scale.decimals)}</text>{/each}
  </svg>
</div>

<style>
  svg {
    display: block;
  }
  .line {
    fill: none;
    stroke: var(--ink);
    stroke-width: 1.2;
    pointer-events: none;
  }
  .axis {
    stroke: var(--mist-3);
  }
  .own {
    fill: var(--kaki);
    opacity: 0.22;
  }
  .off {
    fill: var(--mist-2);
    opacity: 0.6;
  }
  .edge {
    fill: transparent;
    cursor: ew-resize;
    touch-action: none;
  }
</style>
