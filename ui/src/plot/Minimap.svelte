<script lang="ts">
  // The whole run with the shown stretch; its edges and middle are dragged.
  import type { Trace } from "../api/client";
  import { frame } from "./frame";
  import type { Window } from "./window.svelte";

  let { trace, view, left = 50, right = 12 }: { trace: Trace | undefined; view: Window; left?: number; right?: number } = $props();
  let width = $state(900);
  const h = 30;
  const f = $derived(frame(width, h, { l: left, r: right, t: 4, b: 4 }, [view.runStart, view.runEnd], [0, 1]));
  const ridge = $derived.by(() => {
    if (!trace || trace.value.length === 0) return "";
    const columns = 300;
    const n = trace.value.length;
    let low = Infinity;
    let high = -Infinity;
    for (const v of trace.value) {
      if (v < low) low = v;
      if (v > high) high = v;
    }
    let d = "";
    for (let c = 0; c < columns; c++) {
      let top = -Infinity;
      const end = Math.max(Math.floor(((c + 1) * n) / columns), Math.floor((c * n) / columns) + 1);
      for (let i = Math.floor((c * n) / columns); i < end; i++) top = Math.max(top, trace.value[i] ?? low);
      const y = Math.pow(Math.max(0, (top - low) / (high - low || 1)), 0.5);
      d += `${c ? "L" : "M"}${f.sx(trace.min[Math.min(n - 1, Math.floor(((c + 0.5) * n) / columns))]!).toFixed(1)} ${f.sy(y).toFixed(1)}`;
    }
    return d;
  });
  const a = $derived(f.sx(view.from));
  const b = $derived(f.sx(view.to));

  function drag(e: PointerEvent) {
    const svg = e.currentTarget as SVGSVGElement;
    const px = (ev: PointerEvent) => f.ix(ev.clientX - svg.getBoundingClientRect().left);
    const start = px(e);
    const x = f.sx(start);
    const part = Math.abs(x - a) < 8 ? "from" : Math.abs(x - b) < 8 ? "to" : x > a && x < b ? "both" : "jump";
    const [from, to] = [view.from, view.to];
    if (part === "jump") view.show(start - (to - from) / 2, start + (to - from) / 2);
    svg.setPointerCapture(e.pointerId);
    const move = (ev: PointerEvent) => {
      const at = px(ev);
      if (part === "from") view.show(Math.min(at, to - 0.01), to, false);
      else if (part === "to") view.show(from, Math.max(at, from + 0.01), false);
      else if (part === "both") view.show(from + at - start, to + at - start, false);
    };
    const up = () => {
      svg.removeEventListener("pointermove", move);
      svg.removeEventListener("pointerup", up);
    };
    svg.addEventListener("pointermove", move);
    svg.addEventListener("pointerup", up);
  }
</script>

<div class="mini" bind:clientWidth={width}>
  <svg
    {width}
    height={h}
    onpointerdown={drag}
    role="img"
    aria-label="The whole run, {view.from.toFixed(2)} to {view.to.toFixed(2)} min shown"
  >
    <rect x={f.x0} y="0" width={f.x1 - f.x0} height={h - 4} fill="var(--paper-2)" />
    {#if ridge}<path d="{ridge}L{f.x1} {f.y0}L{f.x0} {f.y0}Z" fill="var(--ridge)" />{/if}
    <rect x={f.x0} y="0" width={Math.max(0, a - f.x0)} height={h - 4} fill="var(--veil)" />
    <rect x={b} y="0" width={Math.max(0, f.x1 - b)} height={h - 4} fill="var(--veil)" />
    <path d="M{f.x0} {f.y0 + 0.5}H{f.x1}" stroke="var(--mist-3)" />
    <path d="M{a + 0.5} .5V{f.y0 + 1}M{b - 0.5} .5V{f.y0 + 1}M{a} .5H{b}" stroke="var(--ink)" fill="none" />
    <path d="M{a + 0.5} 8v10M{b - 0.5} 8v10" stroke="var(--ink)" stroke-width="3.4" stroke-linecap="round" />
  </svg>
</div>

<style>
  .mini {
    flex: none;
    height: 34px;
    touch-action: none;
    cursor: ew-resize;
  }
</style>
