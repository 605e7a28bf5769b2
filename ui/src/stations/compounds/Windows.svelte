<script lang="ts">
  // The windows of all compounds on the time axis of a chromatogram. That of the chosen one stands over the whole height; its ends and its
  // middle can be dragged, and the peaks in it say by which rules they would win.
  import type { Compound, Injected } from "../../api/client";
  import type { Shown } from "../../plot/Chromatogram.svelte";
  import type { Frame } from "../../plot/frame";
  import { placeOf, type Place } from "./table";

  let {
    f,
    list,
    injected,
    peaks,
    chosen,
    move,
  }: {
    f: Frame;
    list: Compound[];
    injected: Injected | undefined;
    peaks: Shown[];
    chosen: string | undefined;
    /** Called when a window was dragged to another place, or its end to another distance. */
    move: (c: Compound, to: Place) => void;
  } = $props();

  let dragged = $state<{ id: string; at: Place } | null>(null);
  const at = (c: Compound): Place => (dragged?.id === c.id ? dragged.at : placeOf(c, injected));
  const contenders = $derived(chosen ? (injected?.contenders?.[chosen] ?? []) : []);

  function grip(e: PointerEvent, c: Compound, part: "start" | "middle" | "end") {
    e.stopPropagation();
    const handle = e.currentTarget as SVGElement;
    const left = handle.ownerSVGElement!.getBoundingClientRect().left;
    handle.setPointerCapture(e.pointerId);
    const from = placeOf(c, injected);
    const start = e.clientX;
    const moved = (ev: PointerEvent) => {
      const min = f.ix(ev.clientX - left);
      const half = part === "middle" ? from.half_min : Math.max(0.005, Math.abs(min - from.expected_min));
      dragged = { id: c.id, at: { expected_min: part === "middle" ? min : from.expected_min, half_min: half } };
    };
    const up = (ev: PointerEvent) => {
      if (Math.abs(ev.clientX - start) > 2) moved(ev);
      handle.removeEventListener("pointermove", moved);
      handle.removeEventListener("pointerup", up);
      if (dragged) move(c, dragged.at);
      dragged = null;
    };
    handle.addEventListener("pointermove", moved);
    handle.addEventListener("pointerup", up);
  }
  function nudge(e: KeyboardEvent, c: Compound, part: "start" | "middle" | "end") {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
    if (!step) return;
    e.preventDefault();
    const by = step * (e.shiftKey ? 0.05 : 0.005);
    const p = placeOf(c, injected);
    move(c, {
      expected_min: part === "middle" ? p.expected_min + by : p.expected_min,
      half_min: part === "middle" ? p.half_min : Math.max(0.005, p.half_min + (part === "end" ? by : -by)),
    });
  }
</script>

{#each list as c (c.id)}
  {@const p = at(c)}
  {@const x0 = f.sx(p.expected_min - p.half_min)}
  {@const x1 = f.sx(p.expected_min + p.half_min)}
  {#if x1 > f.x0 && x0 < f.x1}
    <g style="color: var({c.id === chosen ? '--kaki' : c.role === 'target' ? '--ai' : '--moss'})" pointer-events="none">
      {#if c.id === chosen}<rect
          x={Math.max(f.x0, x0)}
          y={f.y1 - 30}
          width={Math.min(f.x1, x1) - Math.max(f.x0, x0)}
          height={f.y0 - f.y1 + 30}
          fill="currentColor"
          opacity=".06"
        />{/if}
      <path
        d="M{Math.max(f.x0, x0)} {f.y0 - 3.5}v-5M{Math.min(f.x1, x1)} {f.y0 - 3.5}v-5M{Math.max(f.x0, x0)} {f.y0 - 6}H{Math.min(f.x1, x1)}"
        stroke="currentColor"
        stroke-width="1.2"
        fill="none"
      />
      <path d="M{f.sx(p.expected_min)} {f.y0 - 9}v6" stroke="currentColor" stroke-width="1.2" />
      {#if c.reference}<path d="M{f.sx(p.expected_min) - 4} {f.y0 - 14}h8l-4 5Z" fill="currentColor" />{/if}
    </g>
    {#if c.id === chosen}
      {#each [["start", x0], ["middle", f.sx(p.expected_min)], ["end", x1]] as const as [part, x] (part)}
        <g
          class={part === "middle" ? "middle" : "end"}
          role="slider"
          tabindex="0"
          aria-label="{part === 'middle' ? 'Expected time' : part === 'start' ? 'Window start' : 'Window end'} of {c.name}"
          aria-valuenow={part === "middle" ? p.expected_min : p.half_min}
          onpointerdown={(e) => grip(e, c, part)}
          onkeydown={(e) => nudge(e, c, part)}
        >
          <rect x={x - 6} y={f.y0 - 26} width="12" height="26" fill="transparent" />
          <circle cx={x} cy={f.y0 - 18} r={part === "middle" ? 3 : 3.8} fill="var(--paper)" stroke="var(--kaki)" stroke-width="1.6" />
        </g>
      {/each}
      {#each contenders as rival (rival.peak_number)}
        {@const peak = peaks.find((q) => q.number === rival.peak_number)}
        {#if peak && rival.wins.length > 0}
          <text class="rival" class:won={peak.compound_id === c.id} x={f.sx(peak.apex_min)} y={f.y0 + 12} text-anchor="middle"
            >{rival.wins.join(", ")}</text
          >
        {/if}
      {/each}
    {/if}
  {/if}
{/each}

<style>
  .end {
    cursor: ew-resize;
  }
  .middle {
    cursor: grab;
  }
  .rival {
    font-size: 11px;
    fill: var(--ink-3);
    paint-order: stroke;
    stroke: var(--paper);
    stroke-width: 3px;
  }
  .rival.won {
    fill: var(--kaki-text);
    font-weight: 600;
  }
</style>
