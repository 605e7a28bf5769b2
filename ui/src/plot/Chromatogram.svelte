<script lang="ts" module>
  import { count } from "../look/number";
  import type { Peak, Trace } from "../api/client";
  export type Shown = Peak & { name: string; standard: boolean };
  export type { Trace };
</script>

<script lang="ts">
  // A chromatogram with its baselines, boundaries, fills and labels. It draws what it is given and tells what was done to it; it decides
  // nothing.
  import type { Snippet } from "svelte";
  import Axes from "./Axes.svelte";
  import { frame, type Frame } from "./frame";
  import { labels } from "./labels.svelte";
  import { place, type Wanted } from "./place";
  import Lines from "./Lines.svelte";
  import type { Window } from "./window.svelte";

  let {
    trace,
    unit,
    peaks,
    asSaved = [],
    selected = null,
    hovered = null,
    view,
    far,
    select,
    hover,
    moveBoundary,
    addPeak,
    anchors = [],
    moveAnchor,
    marks = [],
    right = 12,
    pointer = $bindable(null),
    over,
  }: {
    trace: Trace | undefined;
    unit: string;
    peaks: Shown[];
    /** Peaks as they are saved, drawn dotted where a preview differs. */
    asSaved?: Peak[];
    selected?: number | null;
    hovered?: number | null;
    view: Window;
    /** A trace set back behind this one, for recognising, not for reading. */
    far?: Trace;
    /** Called with the peak that was clicked, and whether Alt was held. */
    select?: (number: number | null, aside: boolean) => void;
    hover?: (number: number | null) => void;
    /** Called while a boundary is dragged (kept false) and when it is let go (true). */
    moveBoundary?: (peak: Shown, side: "start" | "end", toMin: number, kept: boolean) => void;
    /** Called when a stretch was drawn with Shift held. */
    addPeak?: (fromMin: number, toMin: number) => void;
    /** Points that hold the baseline; without a level they lie on the trace. */
    anchors?: { apex_min: number; level?: number | null }[];
    moveAnchor?: (atMin: number, level: number) => void;
    /** Examples: peaks to keep and to ignore. */
    marks?: { at_min: number; keep: boolean }[];
    /** Room at the right, px. */
    right?: number;
    pointer?: number | null;
    over?: Snippet<[Frame]>;
  } = $props();

  let width = $state(900);
  let height = $state(300);
  let zoomFrom = $state<number | null>(null);
  let zoomTo = $state<number | null>(null);
  let drawing = $state(false); // the stretch being dragged is a new peak, not a zoom

  /** Lowest and highest signal of the shown stretch. */
  const range = $derived.by<[number, number]>(() => {
    if (!trace) return [0, 1];
    let low = Infinity;
    let high = -Infinity;
    for (let i = 0; i < trace.min.length; i++) {
      const t = trace.min[i]!;
      if (t < view.from || t > view.to) continue;
      const v = trace.value[i]!;
      if (v < low) low = v;
      if (v > high) high = v;
    }
    if (!(high > low)) return [low - 1 || -1, low + 1 || 1];
    const span = (high - low) / view.lift;
    return [low - 0.06 * span, low + span * 1.02];
  });
  const f = $derived(frame(width, height, { l: 50, r: right, t: 46, b: 24 }, [view.from, view.to], range));
  const shown = $derived(peaks.filter((p) => p.end_min > view.from && p.start_min < view.to));

  function indexAt(min: number): number {
    let a = 0;
    let b = trace!.min.length;
    while (a < b) {
      const m = (a + b) >> 1;
      if (trace!.min[m]! < min) a = m + 1;
      else b = m;
    }
    return a;
  }
  /** A line of points, between them straight. */
  function along(line: { min: number[]; signal: number[] }, min: number): number {
    const n = line.min.length;
    let k = 1;
    while (k < n - 1 && line.min[k]! < min) k++;
    const share = (min - line.min[k - 1]!) / (line.min[k]! - line.min[k - 1]! || 1);
    return line.signal[k - 1]! + (line.signal[k]! - line.signal[k - 1]!) * Math.max(0, Math.min(1, share));
  }
  const base = (p: Peak, min: number) =>
    p.under
      ? along(p.under, min)
      : p.baseline_start + ((p.baseline_end - p.baseline_start) * (min - p.start_min)) / (p.end_min - p.start_min || 1);
  const points = (line: { min: number[]; signal: number[] }) =>
    line.min.map((t, k) => `${k ? "L" : "M"}${f.sx(t).toFixed(1)} ${clampY(f.sy(line.signal[k]!)).toFixed(1)}`).join("");
  const basePath = (p: Peak) =>
    p.under ? points(p.under) : `M${f.sx(p.start_min)} ${f.sy(p.baseline_start)}L${f.sx(p.end_min)} ${f.sy(p.baseline_end)}`;
  const clampY = (y: number) => Math.max(f.y1 - 4000, Math.min(f.y0 + 400, y));

  /** The area that is counted: trace above, baseline below. What stands on a tangent of its own is not its parent's. */
  function areaPath(p: Peak): string {
    if (!trace) return "";
    if (p.over) {
      const back = p.under ?? { min: [p.start_min, p.end_min], signal: [p.baseline_start, p.baseline_end] };
      return `${points(p.over)}${points({ min: back.min.toReversed(), signal: back.signal.toReversed() }).replace("M", "L")}Z`;
    }
    const riders = peaks.filter(
      (r) => r.number !== p.number && r.start_kind === "skim" && r.start_min >= p.start_min - 1e-9 && r.end_min <= p.end_min + 1e-9,
    );
    const level = (i: number) => {
      const at = trace.min[i]!;
      const r = riders.find((q) => at >= q.start_min && at <= q.end_min);
      return r ? base(r, at) : trace.value[i]!;
    };
    const from = Math.max(p.start_min, view.from - 0.05);
    const to = Math.min(p.end_min, view.to + 0.05);
    let d = `M${f.sx(from).toFixed(1)} ${clampY(f.sy(base(p, from))).toFixed(1)}`;
    for (let i = indexAt(from); i < trace.min.length && trace.min[i]! <= to; i++)
      d += `L${f.sx(trace.min[i]!).toFixed(1)} ${clampY(f.sy(level(i))).toFixed(1)}`;
    d += `L${f.sx(to).toFixed(1)} ${clampY(f.sy(base(p, to))).toFixed(1)}`;
    if (p.under)
      // back along a baseline that bends
      for (let k = p.under.min.length - 1; k >= 0; k--) {
        const t = p.under.min[k]!;
        if (t > from && t < to) d += `L${f.sx(t).toFixed(1)} ${clampY(f.sy(p.under.signal[k]!)).toFixed(1)}`;
      }
    return `${d}Z`;
  }
  function signalAt(min: number): number {
    if (!trace || trace.min.length === 0) return 0;
    return trace.value[Math.min(trace.min.length - 1, indexAt(min))]!;
  }
  const fill = (p: Shown) => (p.number === selected ? "gk" : p.standard ? "gm" : p.name ? "ga" : "gu");
  const differs = $derived(
    asSaved.filter((s) => !peaks.some((p) => Math.abs(p.start_min - s.start_min) < 1e-4 && Math.abs(p.end_min - s.end_min) < 1e-4)),
  );

  const placed = $derived.by(() => {
    if (!labels.shown || !trace) return [];
    const wanted: Wanted[] = shown
      .filter((p) => p.apex_min > view.from && p.apex_min < view.to)
      .map((p) => ({
        id: String(p.number),
        x: f.sx(p.apex_min),
        y: Math.max(f.y1 + 2, f.sy(Math.max(signalAt(p.apex_min), p.height + base(p, p.apex_min)))),
        name: labels.name ? p.name : "",
        values: labels.values(p),
        priority: (p.number === selected ? 1e9 : 0) + (p.name ? 1e6 : 0) + p.height / (range[1] - range[0]),
        colour: p.number === selected ? "var(--kaki-text)" : p.standard ? "var(--moss)" : undefined,
      }))
      .filter((w) => w.name || w.values);
    return place(wanted, f, labels.angle, (x0, x1) => {
      let top = f.y0;
      for (let x = Math.max(0, Math.floor(x0)); x <= Math.min(tops.length - 1, x1); x++) top = Math.min(top, tops[x]!);
      return Math.max(top, f.y1 - 40);
    });
  });
  /** The highest point of the trace in each column of pixels. */
  const tops = $derived.by(() => {
    const columns = new Float32Array(Math.ceil(width) + 1).fill(f.y0);
    if (!trace) return columns;
    for (let i = indexAt(view.from); i < trace.min.length && trace.min[i]! <= view.to; i++) {
      const x = Math.round(f.sx(trace.min[i]!));
      const y = f.sy(trace.value[i]!);
      if (y < columns[x]!) columns[x] = y;
    }
    return columns;
  });

  const farPath = $derived.by(() => {
    if (!far) return "";
    let d = "";
    for (let i = 0; i < far.min.length; i++) {
      const t = far.min[i]!;
      if (t < view.from - 0.2 || t > view.to + 0.2) continue;
      d += `${d ? "L" : "M"}${(f.sx(t) + 9).toFixed(1)} ${Math.max(0, f.sy(far.value[i]!) - 15).toFixed(1)}`;
    }
    return d && `${d}L${f.x1 + 30} ${f.y0}L${f.x0} ${f.y0}Z`;
  });
  const ground = $derived.by(() => {
    if (!far || !trace) return "";
    let d = "";
    for (let i = 0; i < trace.min.length; i++) {
      const t = trace.min[i]!;
      if (t < view.from || t > view.to) continue;
      d += `${d ? "L" : "M"}${f.sx(t).toFixed(1)} ${clampY(f.sy(trace.value[i]!)).toFixed(1)}`;
    }
    return d && `${d}L${f.x1} ${f.y0}L${f.x0} ${f.y0}Z`;
  });

  const local = (e: { clientX: number; currentTarget: EventTarget | null }, el = e.currentTarget as Element) =>
    e.clientX - el.getBoundingClientRect().left;

  function peakAt(min: number): Shown | undefined {
    return shown.find((p) => min >= p.start_min && min <= p.end_min);
  }
  function press(e: PointerEvent) {
    if (e.button !== 0) return;
    const svg = e.currentTarget as SVGSVGElement;
    const start = local(e);
    if (start < f.x0) return;
    svg.setPointerCapture(e.pointerId);
    drawing = e.shiftKey && addPeak !== undefined;
    const move = (ev: PointerEvent) => {
      const x = Math.max(f.x0, Math.min(f.x1, local(ev, svg)));
      if (Math.abs(x - start) > 4) [zoomFrom, zoomTo] = [Math.min(start, x), Math.max(start, x)];
    };
    const up = (ev: PointerEvent) => {
      svg.removeEventListener("pointermove", move);
      svg.removeEventListener("pointerup", up);
      if (zoomFrom !== null && zoomTo !== null && drawing) addPeak?.(f.ix(zoomFrom), f.ix(zoomTo));
      else if (zoomFrom !== null && zoomTo !== null) view.show(f.ix(zoomFrom), f.ix(zoomTo));
      else select?.(peakAt(f.ix(local(ev, svg)))?.number ?? null, ev.altKey);
      zoomFrom = zoomTo = null;
    };
    svg.addEventListener("pointermove", move);
    svg.addEventListener("pointerup", up);
  }
  function wheel(e: WheelEvent) {
    e.preventDefault();
    const factor = Math.exp((e.deltaY || e.deltaX) * 0.0015);
    if (e.shiftKey) view.lift = Math.max(1, Math.min(10000, view.lift / factor));
    else view.zoom(f.ix(local(e)), factor);
  }
  function point(e: PointerEvent) {
    const x = local(e);
    pointer = x >= f.x0 && x <= f.x1 ? f.ix(x) : null;
    hover?.(pointer === null ? null : (peakAt(pointer)?.number ?? null));
  }

  function dragHandle(e: PointerEvent, p: Shown, side: "start" | "end") {
    e.stopPropagation();
    const handle = e.currentTarget as SVGElement;
    const svg = handle.ownerSVGElement!;
    handle.setPointerCapture(e.pointerId);
    const at = (ev: PointerEvent) => f.ix(ev.clientX - svg.getBoundingClientRect().left);
    const move = (ev: PointerEvent) => moveBoundary?.(p, side, at(ev), false);
    const up = (ev: PointerEvent) => {
      handle.removeEventListener("pointermove", move);
      handle.removeEventListener("pointerup", up);
      moveBoundary?.(p, side, at(ev), true);
    };
    handle.addEventListener("pointermove", move);
    handle.addEventListener("pointerup", up);
  }
  function dragAnchor(e: PointerEvent, atMin: number) {
    e.stopPropagation();
    const handle = e.currentTarget as SVGElement;
    const svg = handle.ownerSVGElement!;
    handle.setPointerCapture(e.pointerId);
    const level = (ev: PointerEvent) => {
      const y = ev.clientY - svg.getBoundingClientRect().top;
      return f.low + ((f.y0 - y) / (f.y0 - f.y1)) * (f.high - f.low);
    };
    const move = (ev: PointerEvent) => moveAnchor?.(atMin, level(ev));
    const up = () => {
      handle.removeEventListener("pointermove", move);
      handle.removeEventListener("pointerup", up);
    };
    handle.addEventListener("pointermove", move);
    handle.addEventListener("pointerup", up);
  }
  function anchorKey(e: KeyboardEvent, atMin: number, level: number) {
    const step = { ArrowUp: 1, ArrowDown: -1 }[e.key];
    if (!step) return;
    e.preventDefault();
    moveAnchor?.(atMin, level + (step * (e.shiftKey ? 10 : 1) * (f.high - f.low)) / (f.y0 - f.y1));
  }
  function handleKey(e: KeyboardEvent, p: Shown, side: "start" | "end") {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
    const now = side === "start" ? p.start_min : p.end_min;
    if (e.key === "Enter") moveBoundary?.(p, side, now, true);
    else if (step && trace) moveBoundary?.(p, side, now + (step * (e.shiftKey ? 10 : 1) * (trace.min[1]! - trace.min[0]!)) / 1, false);
    else return;
    e.preventDefault();
  }
</script>

<div class="plot" bind:clientWidth={width} bind:clientHeight={height}>
  <svg class="under" {width} {height} aria-hidden="true">
    <defs>
      {#each [["ga", "ai"], ["gm", "moss"], ["gu", "mist"], ["gk", "kaki"]] as [id, w] (id)}
        <linearGradient {id} x1="0" y1="0" x2="0" y2="1"
          ><stop offset="0" stop-color="var(--w-{w}-a)" /><stop offset="1" stop-color="var(--w-{w}-b)" /></linearGradient
        >
      {/each}
      <clipPath id="inside"><rect x={f.x0} y="0" width={f.x1 - f.x0} height={f.y0 + 8} /></clipPath>
      <clipPath id="above"><rect x={f.x0} y="0" width={f.x1 - f.x0} height={f.y0} /></clipPath>
    </defs>
    {#if farPath}
      <g clip-path="url(#above)"><path d={farPath} fill="var(--far-a)" /><path d={ground} fill="var(--paper)" /></g>
    {/if}
    <g clip-path="url(#inside)">
      {#each shown as p (p.number)}
        <path d={areaPath(p)} fill="url(#{fill(p)})" opacity={hovered === p.number ? 1.6 : 1} />
        {#if hovered === p.number}<path d={areaPath(p)} fill="var(--hover)" />{/if}
      {/each}
    </g>
  </svg>
  {#if trace}<Lines {f} x={trace.min} lines={[{ y: trace.value, colour: "--ink", width: 1.25 }]} />{/if}
  <svg
    class="over"
    {width}
    {height}
    role="group"
    aria-label="Chromatogram with {count(peaks.length, 'peak')}"
    onpointerdown={press}
    onpointermove={point}
    onpointerleave={() => ((pointer = null), hover?.(null))}
    onwheel={wheel}
    ondblclick={() => view.all()}
  >
    <rect {width} {height} fill="transparent" />
    {#if trace}<Axes {f} unitY={unit} />{/if}
    <g clip-path="url(#inside)">
      {#each differs as s (s.start_min)}
        <path
          d="M{f.sx(s.start_min)} {f.sy(signalAt(s.start_min))}V{f.sy(s.baseline_start)}L{f.sx(s.end_min)} {f.sy(s.baseline_end)}V{f.sy(
            signalAt(s.end_min),
          )}"
          fill="none"
          stroke="var(--kaki)"
          stroke-width="1.2"
          stroke-dasharray="1.5 2.5"
        />
      {/each}
      {#each shown as p (p.number)}
        <path d={basePath(p)} stroke="var(--ink-2)" stroke-width=".9" fill="none" />
        {#if p.over}<path d={points(p.over)} stroke="var(--ai)" stroke-width="1.1" fill="none" stroke-dasharray="5 2" />{/if}
        {#if p.start_kind !== "base" && p.start_kind !== "skim" && p.start_kind !== "fit"}
          <path
            d="M{f.sx(p.start_min)} {f.sy(p.baseline_start)}V{f.sy(signalAt(p.start_min))}"
            stroke="var(--ink-2)"
            stroke-dasharray="3 2.2"
          />
        {/if}
        {#if p.end_kind === "by_hand"}
          <path d="M{f.sx(p.end_min)} {f.sy(p.baseline_end)}V{f.sy(signalAt(p.end_min))}" stroke="var(--ink-2)" stroke-dasharray="3 2.2" />
        {/if}
        <path
          d="M{f.sx(p.start_min)} {f.sy(p.baseline_start) - 4}v8M{f.sx(p.end_min)} {f.sy(p.baseline_end) - 4}v8"
          stroke="var(--ink)"
          stroke-width="1.1"
        />
        {#if p.number === selected}<path d={areaPath(p)} fill="none" stroke="var(--kaki)" stroke-width="1.7" stroke-linejoin="round" />{/if}
      {/each}
    </g>
    {#each placed as l (l.id)}
      {#if l.leader}<path d="M{l.x} {l.y - 3}L{l.lx} {l.ly + 4}" stroke="var(--mist-3)" stroke-width=".8" />{/if}
      {#if labels.angle === 0}
        {#if l.name}<text class="lb" x={l.lx} y={l.ly - (l.values ? 13 : 0)} text-anchor="middle" style={l.colour ? `fill:${l.colour}` : ""}
            >{l.name}</text
          >{/if}
        {#if l.values}<text
            class="lb2"
            x={l.lx}
            y={l.ly}
            text-anchor="middle"
            style={l.colour && l.colour !== "var(--moss)" ? `fill:${l.colour}` : ""}>{l.values}</text
          >{/if}
      {:else}
        <text class="lb2" x={l.lx} y={l.ly} transform="rotate({-labels.angle} {l.lx} {l.ly})" style={l.colour ? `fill:${l.colour}` : ""}
          ><tspan class="lb" style={l.colour ? `fill:${l.colour}` : ""}>{l.name}</tspan>{l.name && l.values ? " " : ""}{l.values}</text
        >
      {/if}
    {/each}
    {#each marks as m (m.at_min)}
      <g transform="translate({f.sx(m.at_min)} {f.y1 - 38})" stroke={m.keep ? "var(--ai)" : "var(--kaki)"} stroke-width="1.8" fill="none">
        <path d={m.keep ? "M-5 0L-1.5 4L5 -5" : "M-4.5 -4.5L4.5 4.5M4.5 -4.5L-4.5 4.5"} />
        <path d="M0 7v12" stroke-width=".8" stroke-dasharray="2 3" />
      </g>
    {/each}
    {@render over?.(f)}
    {#if pointer !== null}
      <path d="M{f.sx(pointer)} {f.y1}V{f.y0}" stroke="var(--ink)" stroke-width=".5" opacity=".35" pointer-events="none" />
    {/if}
    {#if zoomFrom !== null && zoomTo !== null}
      <rect
        x={zoomFrom}
        y={f.y1 - 20}
        width={zoomTo - zoomFrom}
        height={f.y0 - f.y1 + 20}
        fill="var({drawing ? '--row-kaki' : '--row-ai'})"
      />
      <path d="M{zoomFrom} {f.y1 - 20}V{f.y0}M{zoomTo} {f.y1 - 20}V{f.y0}" stroke="var(--ai)" />
    {/if}
    {#each anchors as a (a.apex_min)}
      {@const level = a.level ?? signalAt(a.apex_min)}
      {#if a.apex_min > view.from && a.apex_min < view.to}
        <g
          class="anchor"
          role="slider"
          tabindex="0"
          aria-label="Anchor at {a.apex_min.toFixed(2)} min"
          aria-valuenow={level}
          aria-valuetext="{level.toPrecision(4)} {unit}"
          onpointerdown={(e) => dragAnchor(e, a.apex_min)}
          onkeydown={(e) => anchorKey(e, a.apex_min, level)}
        >
          <rect x={f.sx(a.apex_min) - 12} y={f.sy(level) - 12} width="24" height="24" fill="transparent" />
          <path d="M{f.sx(a.apex_min)} {f.sy(level) - 5}l5 5l-5 5l-5 -5Z" fill="var(--paper)" stroke="var(--kaki)" stroke-width="1.6" />
        </g>
      {/if}
    {/each}
    {#if moveBoundary}
      {#each shown.filter((p) => p.number === selected && p.start_kind !== "fit") as p (p.number)}
        {#each ["start", "end"] as const as side (side)}
          {@const min = side === "start" ? p.start_min : p.end_min}
          {#if min >= view.from && min <= view.to}
            <g
              class="handle"
              role="slider"
              tabindex="0"
              aria-label="{side === 'start' ? 'Start' : 'End'} of {p.name || p.apex_min.toFixed(2)}"
              aria-valuenow={min}
              aria-valuetext="{min.toFixed(3)} min"
              onpointerdown={(e) => dragHandle(e, p, side)}
              onkeydown={(e) => handleKey(e, p, side)}
            >
              <rect
                x={f.sx(min) - 12}
                y={f.sy(side === "start" ? p.baseline_start : p.baseline_end) - 4}
                width="24"
                height="24"
                fill="transparent"
              />
              <circle
                cx={f.sx(min)}
                cy={f.sy(side === "start" ? p.baseline_start : p.baseline_end) + 9}
                r="3.8"
                fill="var(--paper)"
                stroke="var(--kaki)"
                stroke-width="1.6"
              />
            </g>
          {/if}
        {/each}
      {/each}
    {/if}
  </svg>
  {#if !trace}<div class="empty wait">Reading the trace …</div>{/if}
</div>

<style>
  .plot {
    position: relative;
    flex: 1 1 auto;
    min-height: 200px;
    overflow: hidden;
    touch-action: none;
  }
  .under,
  .over {
    position: absolute;
    inset: 0;
  }
  .handle {
    cursor: ew-resize;
  }
  .anchor {
    cursor: ns-resize;
  }
  .wait {
    position: absolute;
    inset: 0;
  }
</style>
