<script lang="ts">
  // The curve with its points, and the deviations of the back-calculated values under it on the same axis.
  import type { Curve, Method } from "../../api/client";
  import { significant } from "../../look/number";
  import type { Deviation } from "./calibration";
  import DeviationPlot from "./DeviationPlot.svelte";
  import { frame, label, logTicks, ticks } from "../../plot/frame";

  type Tick = { id: string; name: string; x: number; y: number };
  let {
    curve,
    method,
    log,
    hovered,
    hover,
    choose,
    samples,
    pointed,
    range,
    other = null,
    low: lowEnd = false,
    kind = "back",
    means = false,
  }: {
    curve: Curve;
    method: Method;
    log: boolean;
    hovered: string | null;
    hover: (id: string | null) => void;
    choose: (id: string) => void;
    samples: Tick[];
    pointed: Tick | undefined;
    range: (low: number, high: number) => void;
    /** Another curve, drawn behind for comparison. */
    other?: Curve | null;
    /** Show the low end only: up to the third level. */
    low?: boolean;
    kind?: Deviation;
    means?: boolean;
  } = $props();

  let width = $state(580);
  let height = $state(540);
  const fit = $derived(curve.fit);
  const levels = $derived([...new Set(curve.points.map((p) => p.x))].sort((a, b) => a - b));
  const highest = $derived(
    lowEnd && levels.length > 3 ? levels[2]! * 1.15 : Math.max(1e-9, ...curve.points.map((p) => p.x), ...samples.map((s) => s.x)),
  );
  const lowest = $derived(Math.min(...curve.points.map((p) => p.x).filter((v) => v > 0), highest));
  const top = $derived(
    Math.max(
      1e-12,
      ...curve.points.filter((p) => p.x <= highest).map((p) => p.response),
      ...curve.line.filter((l) => l.x <= highest * 1.03).map((l) => l.y),
    ),
  );
  const least = $derived(Math.min(...curve.points.map((p) => p.response).filter((v) => v > 0), top));
  const t = (v: number) => (log ? Math.log10(Math.max(v, 1e-12)) : v);
  const devHeight = 120;
  const bracketHeight = 34;
  const f = $derived(
    frame(
      width,
      height - devHeight - bracketHeight - 26,
      { l: 58, r: 22, t: 30, b: 6 },
      log ? [Math.log10(lowest * 0.7), Math.log10(highest * 1.15)] : [0, highest * 1.06],
      log ? [Math.log10(least * 0.6), Math.log10(top * 1.4)] : [Math.min(0, ...curve.points.map((p) => p.response)), top * 1.08],
    ),
  );
  const px = (x: number) => f.sx(t(x));
  const py = (y: number) => f.sy(t(y));
  const limit = $derived(method.checks.deviation_percent || 20);
  const xt = $derived(log ? logTicks(lowest * 0.7, highest * 1.15) : ticks(0, highest * 1.06, 8).at);
  const xDecimals = $derived(ticks(0, highest * 1.06, 8).decimals);
  const yt = $derived(log ? logTicks(least * 0.6, top * 1.4).filter((v) => /^1|^0\.0*1/.test(String(v))) : ticks(f.low, f.high, 5).at);
  const yDecimals = $derived(ticks(log ? 0 : f.low, log ? 1 : f.high, 5).decimals);
  const drawn = (line: Curve["line"], from: number, to: number) =>
    line
      .filter((l) => l.x >= from && l.x <= Math.min(to, highest * 1.06) && (!log || (l.x > lowest * 0.5 && l.y > 0)))
      .map((l, i) => `${i ? "L" : "M"}${px(l.x).toFixed(1)} ${py(l.y).toFixed(1)}`)
      .join("");
  const path = (from: number, to: number) => drawn(curve.line, from, to);
  const band = $derived.by(() => {
    const inside = curve.line.filter((l) => l.band !== null && l.x <= highest * 1.06 && (!log || l.y - l.band! > 0));
    if (inside.length < 2) return "";
    const up = inside.map((l) => `${px(l.x).toFixed(1)} ${py(l.y + l.band!).toFixed(1)}`);
    const down = inside.toReversed().map((l) => `${px(l.x).toFixed(1)} ${py(l.y - l.band!).toFixed(1)}`);
    return `M${[...up, ...down].join("L")}Z`;
  });
  const style = (i: number) => (curve.points[i]!.left_out ? "out" : curve.points[i]!.in_range ? "in" : "beyond");

  let dragging = $state<{ side: "low" | "high"; at: number } | null>(null);
  const low = $derived(dragging?.side === "low" ? dragging.at : (fit?.low_x ?? levels[0] ?? 0));
  const high = $derived(dragging?.side === "high" ? dragging.at : (fit?.high_x ?? levels.at(-1) ?? 1));
  const nearestLevel = (x: number) => levels.reduce((a, b) => (Math.abs(px(b) - x) < Math.abs(px(a) - x) ? b : a), levels[0] ?? 0);
  const allowed = (side: "low" | "high", at: number) => (side === "low" ? at < high : at > low);

  function drag(e: PointerEvent, side: "low" | "high") {
    const handle = e.currentTarget as SVGElement;
    const svg = handle.ownerSVGElement!;
    handle.setPointerCapture(e.pointerId);
    const move = (ev: PointerEvent) => {
      const at = nearestLevel(ev.clientX - svg.getBoundingClientRect().left);
      if (allowed(side, at)) dragging = { side, at };
    };
    const up = () => {
      handle.removeEventListener("pointermove", move);
      handle.removeEventListener("pointerup", up);
      if (dragging) range(low, high);
      dragging = null;
    };
    handle.addEventListener("pointermove", move);
    handle.addEventListener("pointerup", up);
  }
  function step(e: KeyboardEvent, side: "low" | "high") {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
    if (!by) return;
    e.preventDefault();
    const at = levels[levels.indexOf(side === "low" ? low : high) + by];
    if (at !== undefined && allowed(side, at)) range(side === "low" ? at : low, side === "high" ? at : high);
  }
</script>

{#snippet point(x: number, y: number, i: number)}
  {@const id = curve.points[i]!.injection_id}
  <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
  <g class="pt" onpointerenter={() => hover(id)} onpointerleave={() => hover(null)} onclick={() => choose(id)}>
    <circle cx={x} cy={y} r="9" fill="transparent" />
    {#if style(i) === "in"}<circle cx={x} cy={y} r={hovered === id ? 5 : 3.8} fill="var(--ai)" stroke="var(--paper)" stroke-width="1.4" />
    {:else if style(i) === "beyond"}<circle
        cx={x}
        cy={y}
        r={hovered === id ? 5 : 3.8}
        fill="var(--paper)"
        stroke="var(--ink)"
        stroke-width="1.3"
      />
    {:else}<circle cx={x} cy={y} r={hovered === id ? 5.5 : 4.4} fill="var(--paper)" stroke="var(--kaki)" stroke-width="1.3" /><path
        d="M{x - 2.6} {y - 2.6}l5.2 5.2m0 -5.2l-5.2 5.2"
        stroke="var(--kaki)"
        stroke-width="1.2"
      />{/if}
  </g>
{/snippet}

<div class="both" bind:clientWidth={width} bind:clientHeight={height}>
  <svg {width} height={f.y0 + 6} role="img" aria-label="Calibration curve">
    <text class="tu" x={f.x0 - 8} y="14" text-anchor="start" dx="-40"
      >{curve.against ? `${method.curves.response} ratio` : method.curves.response}</text
    >
    <path class="axis" d="M{f.x0} {f.y0 + 0.5}H{f.x1}" />
    {#each xt as v (v)}<path class="tick" d="M{px(v)} {f.y0 + 0.5}v4" />{/each}
    {#each yt as v (v)}
      <path class="tick" d="M{f.x0 - 5} {py(v)}h5" />
      <text class="tl" x={f.x0 - 8} y={py(v) + 3.8} text-anchor="end">{log ? significant(v, 1) : label(v, yDecimals)}</text>
    {/each}
    {#if other}<path
        d={drawn(other.line, 0, Infinity)}
        fill="none"
        stroke="var(--kaki)"
        stroke-width="1.3"
        stroke-dasharray="1.5 2.5"
      />{/if}
    {#if fit}
      <path d={band} fill="var(--w-band)" />
      <path d={path(low, high)} fill="none" stroke="var(--ai)" stroke-width="1.5" />
      <path d={path(high, highest * 1.06)} fill="none" stroke="var(--ai)" stroke-width="1.1" stroke-dasharray="4 4" />
      <path d={path(0, low)} fill="none" stroke="var(--ai)" stroke-width="1.1" stroke-dasharray="4 4" />
    {/if}
    {#each samples.filter((s) => px(s.x) <= f.x1) as s (s.id)}
      <path d="M{px(s.x)} {f.y0}v-9M{f.x0} {py(s.y)}h9" stroke="var(--ink-3)" stroke-width="1" />
    {/each}
    {#if pointed && px(pointed.x) <= f.x1}
      <path d="M{f.x0} {py(pointed.y)}H{px(pointed.x)}V{f.y0}" fill="none" stroke="var(--ink-2)" stroke-dasharray="1.5 2.5" />
      <path d="M{px(pointed.x)} {f.y0}v-11M{f.x0} {py(pointed.y)}h12" stroke="var(--ink)" stroke-width="2" />
      <text class="lb2" x={f.x0 + 18} y={Math.min(py(pointed.y), f.y0 - 96) - 20}>{pointed.name}</text>
      <text class="lb2" x={f.x0 + 18} y={Math.min(py(pointed.y), f.y0 - 96) - 6}
        >{significant(pointed.y, 4)} reads
        <tspan style="font-weight:600;fill:var(--ink)">{significant(pointed.x, 3)} {method.curves.unit}</tspan></text
      >
    {/if}
    {#each curve.points as p, i (p.injection_id + i)}{#if p.x <= highest * 1.06}{@render point(px(p.x), py(p.response), i)}{/if}{/each}
    {#each curve.points.filter((p) => p.left_out && p.x <= highest) as p (p.injection_id)}
      <text class="lb2" style="fill:var(--kaki-text)" x={px(p.x) + 10} y={py(p.response) + 12}>left out: {p.reason}</text>
    {/each}
  </svg>
  <DeviationPlot
    {curve}
    {f}
    {width}
    height={devHeight}
    {limit}
    {kind}
    {means}
    {t}
    ticks={xt}
    decimals={xDecimals}
    {log}
    unit={method.curves.unit}
    {point}
  />
  {#if levels.length > 1}
    <svg {width} height={bracketHeight} role="group" aria-label="Range of the curve">
      <path d="M{px(low)} 12H{Math.min(f.x1, px(high))}" stroke="var(--ink)" stroke-width="1.4" />
      <rect x={(px(low) + Math.min(f.x1, px(high))) / 2 - 66} y="2" width="132" height="20" fill="var(--paper)" />
      <text class="lb" x={(px(low) + Math.min(f.x1, px(high))) / 2} y="16" text-anchor="middle"
        >range {label(low, low < 1 ? 2 : 0)} – {label(high, 0)} {method.curves.unit}</text
      >
      {#each (["low", "high"] as const).filter((side) => px(side === "low" ? low : high) <= f.x1 + 1) as side (side)}
        {@const x = Math.min(f.x1, px(side === "low" ? low : high))}
        {@const s = side === "low" ? 1 : -1}
        <g
          class="end"
          role="slider"
          tabindex="0"
          aria-label={side === "low" ? "Lower end of the range" : "Upper end of the range"}
          aria-valuenow={side === "low" ? low : high}
          onpointerdown={(e) => drag(e, side)}
          onkeydown={(e) => step(e, side)}
        >
          <rect x={x - 10} y="0" width="20" height="26" fill="transparent" />
          <path d="M{x + 5 * s} 3H{x}V21H{x + 5 * s}" fill="none" stroke="var(--ink)" stroke-width="2" />
        </g>
      {/each}
      {#if fit && !lowEnd && levels.length > 0 && high < levels.at(-1)!}
        <text class="lb2" x={Math.min(px(high) + 14, width - 130)} y="16">{levels.at(-1)} {method.curves.unit} stays outside</text>
      {/if}
    </svg>
  {/if}
</div>

<style>
  .both {
    height: 100%;
    min-height: 380px;
    display: flex;
    flex-direction: column;
    touch-action: none;
    overflow: hidden;
  }
  .pt {
    cursor: pointer;
  }
  .end {
    cursor: ew-resize;
  }
</style>
