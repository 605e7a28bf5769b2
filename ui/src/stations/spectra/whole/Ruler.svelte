<script lang="ts">
  // The run of all samples laid over each other, cut where nothing elutes; under each stretch how many compounds it holds.
  // Cuts are dragged; twice pressed, the run is cut there.
  import type { WholeBatch } from "../../../api/client";
  import { ticks } from "../../../plot/frame";
  import { cutAt, cutsOf, moved, whole } from "./whole.svelte";

  let { w, batch }: { w: WholeBatch; batch: string } = $props();
  let wide = $state(900);
  const tall = 150;
  const foot = 40;
  const from = $derived(w.times_min[0] ?? 0);
  const to = $derived(w.times_min.at(-1) ?? 1);
  const left = 8;
  const x = (m: number) => left + ((m - from) / (to - from || 1)) * (wide - 2 * left);
  const top = $derived(Math.max(1e-9, ...w.overlay.map((l) => Math.max(...l))) * 1.05);
  const y = (v: number) => tall - foot - (v / top) * (tall - foot - 6);
  const path = (l: number[]) => l.map((v, k) => `${k ? "L" : "M"}${x(w.times_min[k]!).toFixed(1)} ${y(v).toFixed(1)}`).join("");
  const scale = $derived(ticks(from, to, 8));
  /** The counts stand under their stretches, side by side where those are narrow. */
  const places = $derived.by(() => {
    const list = w.stretches.map((s) => (x(s.from_min) + x(s.to_min)) / 2 - 13);
    for (let k = 1; k < list.length; k++) list[k] = Math.max(list[k]!, list[k - 1]! + 26);
    for (let k = list.length - 1, end = wide - 26; k >= 0; k--, end = list[k + 1]! - 26) list[k] = Math.min(list[k]!, end);
    return list;
  });
  type End = "from_min" | "to_min";
  const ends: End[] = ["from_min", "to_min"];
  let drag = $state<{ at: number; end: End; to: number; from: number }>();
  const minutes = (e: MouseEvent) =>
    from +
    ((e.clientX - (e.currentTarget as Element).closest(".ruler")!.getBoundingClientRect().left - left) / (wide - 2 * left)) * (to - from);
  function dropped(e: PointerEvent) {
    if (drag && Math.abs(e.clientX - drag.from) > 2) void whole.cut(batch, moved(cutsOf(w), drag.at, drag.end, drag.to));
    drag = undefined;
  }
  const says = (s: WholeBatch["stretches"][number]) =>
    `${s.from_min.toFixed(2)} – ${s.to_min.toFixed(2)} min: ${s.state === "done" ? `${s.compounds} compounds` : s.state}${s.message ? `, ${s.message}` : ""}`;
</script>

<!-- The same is done at the side by the keyboard. -->
<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
  class="ruler"
  bind:clientWidth={wide}
  title="Drag a cut to move it; press twice to cut the run there"
  ondblclick={(e) => !(e.target as Element).closest("button") && void whole.cut(batch, cutAt(cutsOf(w), minutes(e)))}
>
  <svg width={wide} height={tall} role="img" aria-label="The run of all samples, in {w.stretches.length} stretches">
    {#each w.stretches as s, k (k)}
      {#if k === whole.stretch}<rect
          x={x(s.from_min)}
          width={Math.max(2, x(s.to_min) - x(s.from_min))}
          y="2"
          height={tall - foot + 18}
          class="here"
        />{/if}
    {/each}
    {#each w.overlay as l, k (k)}<path d={path(l)} class="line" />{/each}
    <path d="M{left} {tall - foot}H{wide - left}" class="axis" />
    {#each w.stretches as s (s.from_min)}<path
        d="M{x(s.from_min)} {tall - foot}V{tall - foot + 16}M{x(s.to_min)} {tall - foot}V{tall - foot + 16}"
        class="cut"
      />{/each}
    {#if drag}<path d="M{x(drag.to)} 2V{tall - foot + 16}" class="moving" /><text class="tl" x={x(drag.to) + 4} y="12"
        >{drag.to.toFixed(2)}</text
      >{/if}
    {#each scale.at.filter((v) => x(v) > 20 && x(v) < wide - 40) as v (v)}<text class="tl" x={x(v)} y={tall - 4} text-anchor="middle"
        >{v}</text
      >{/each}
    <text class="tl" x={wide - left} y={tall - 4} text-anchor="end">min</text>
  </svg>
  {#each w.stretches as s, k (k)}
    {#each ends as end (end)}<div
        class="end"
        data-end="{k} {end}"
        title="{s[end].toFixed(2)} min: drag it"
        style:left="{x(s[end]) - 4}px"
        style:height="{tall - foot}px"
        onpointerdown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          drag = { at: k, end, to: s[end], from: e.clientX };
        }}
        onpointermove={(e) => drag && (drag.to = minutes(e))}
        onpointerup={dropped}
        onpointercancel={() => (drag = undefined)}
      ></div>{/each}
    <button
      class="count {s.state}"
      class:on={k === whole.stretch}
      class:att={s.doubtful || s.state === "failed"}
      style:left="{places[k]}px"
      style:top="{tall - foot - 2}px"
      title={says(s)}
      aria-label={says(s)}
      aria-pressed={k === whole.stretch}
      onclick={() => whole.choose(k)}
      >{s.state === "done" ? s.compounds : s.state === "running" ? "…" : s.state === "failed" ? "!" : "·"}{#if s.doubtful}△{/if}</button
    >
  {/each}
</div>

<style>
  .ruler {
    position: relative;
    flex: none;
    margin: 0 8px;
  }
  svg {
    display: block;
  }
  .line {
    fill: none;
    stroke: var(--ink);
    stroke-width: 0.9;
    opacity: 0.42;
  }
  .axis {
    stroke: var(--mist-3);
  }
  .cut {
    stroke: var(--mist-3);
  }
  .moving {
    stroke: var(--kaki);
    stroke-dasharray: 3 2;
  }
  .end {
    position: absolute;
    top: 0;
    width: 8px;
    cursor: ew-resize;
    touch-action: none;
  }
  .here {
    fill: var(--row-kaki);
    stroke: var(--kaki);
  }
  .count {
    position: absolute;
    width: 26px;
    height: 24px;
    font-size: 12.5px;
    text-align: center;
    color: var(--ink-2);
  }
  .count.on {
    font-weight: 600;
    color: var(--kaki-text);
  }
  .count.waiting {
    color: var(--ink-3);
  }
  .count.att {
    color: var(--kaki-text);
  }
</style>
