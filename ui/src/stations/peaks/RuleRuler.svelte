<script lang="ts">
  // The run as a ridge with the time rules on it. Dragging an empty stretch makes a rule; dragging an end moves it.
  import type { Trace } from "../../api/client";
  import { frame, label, ticks } from "../../plot/frame";
  import type { Rule } from "./words";

  let {
    rules,
    trace,
    chosen,
    choose,
    create,
    move,
  }: {
    rules: Rule[];
    trace: Trace | undefined;
    chosen: number | null;
    choose: (i: number) => void;
    create: (fromMin: number, toMin: number) => void;
    move: (i: number, side: "from_min" | "to_min", min: number) => void;
  } = $props();

  const w = 276;
  const f = $derived(frame(w, 40, { l: 1, r: 1, t: 3, b: 16 }, [trace?.min[0] ?? 0, trace?.min.at(-1) ?? 1], [0, 1]));
  const ridge = $derived.by(() => {
    if (!trace) return "";
    const n = trace.value.length;
    const most = trace.value.reduce((a, b) => Math.max(a, b), 1e-9);
    let d = "";
    for (let c = 0; c < 140; c++) {
      const i = Math.floor((c * n) / 140);
      d += `${c ? "L" : "M"}${f.sx(trace.min[i]!).toFixed(1)} ${f.sy(Math.pow(Math.max(0, trace.value[i]! / most), 0.6)).toFixed(1)}`;
    }
    return `${d}L${w - 1} ${f.y0}L1 ${f.y0}Z`;
  });
  const run = $derived(ticks(f.from, f.to, 6));
  let drawn = $state<[number, number] | null>(null);
  const clamp = (x: number) => Math.max(1, Math.min(w - 1, x));
  const inside = (r: Rule) => [clamp(f.sx(r.from_min)), clamp(f.sx(r.kind === "split_here" ? r.from_min : r.to_min))] as const;

  function press(e: PointerEvent) {
    const svg = e.currentTarget as SVGSVGElement;
    const at = (ev: PointerEvent) => clamp(ev.clientX - svg.getBoundingClientRect().left);
    const start = at(e);
    const round = (x: number) => Math.round(f.ix(x) * 100) / 100;
    const near = (x: number) => Math.abs(x - start) < 5;
    let end: [number, "from_min" | "to_min"] | null = null;
    rules.forEach((r, i) => {
      const [x0, x1] = inside(r);
      if (near(x1) && x1 < w - 2) end = [i, "to_min"];
      else if (near(x0) && x0 > 2) end = [i, "from_min"];
    });
    svg.setPointerCapture(e.pointerId);
    const moved = (ev: PointerEvent) => {
      if (end) move(end[0], end[1], round(at(ev)));
      else drawn = [Math.min(start, at(ev)), Math.max(start, at(ev))];
    };
    const up = (ev: PointerEvent) => {
      svg.removeEventListener("pointermove", moved);
      svg.removeEventListener("pointerup", up);
      if (drawn && drawn[1] - drawn[0] > 3) create(round(drawn[0]), round(drawn[1]));
      else {
        const hit = rules.findIndex((r) => inside(r)[0] - 3 <= at(ev) && at(ev) <= inside(r)[1] + 3);
        if (hit >= 0) choose(hit);
      }
      drawn = null;
    };
    svg.addEventListener("pointermove", moved);
    svg.addEventListener("pointerup", up);
  }
</script>

<svg
  width={w}
  height="40"
  viewBox="0 0 {w} 40"
  role="img"
  aria-label="Time rules along the run; drag a stretch to add one"
  onpointerdown={press}
>
  <rect width={w} height="26" fill="transparent" />
  {#if ridge}<path d={ridge} fill="var(--far)" />{/if}
  {#each rules as r, i (i)}
    {@const [x0, x1] = inside(r)}
    {@const ink = i === chosen ? "var(--kaki)" : "var(--ink-2)"}
    {#if r.kind === "leave_out"}
      <rect x={x0} y="9" width={Math.max(0, x1 - x0)} height="15" fill="var(--w-mist-a)" />
      {#each { length: Math.max(0, Math.floor((x1 - x0) / 5)) } as _, k (k)}<path
          d="M{x0 + k * 5} 24l5 -15"
          stroke={i === chosen ? ink : "var(--mist-3)"}
          stroke-width=".8"
        />{/each}
    {:else if r.kind === "negative"}
      <path
        d="M{x0} 9v15M{x1} 9v15M{x0} 11H{x1}M{(x0 + x1) / 2 - 5} 11q3.5 0 5 9q1.5 -9 5 -9"
        stroke={ink}
        stroke-width="1.2"
        fill="none"
      />
    {:else if r.kind === "hold" || r.kind === "one_baseline"}
      <path
        d="M{x0} 15v9M{x1} {r.kind === 'hold' ? 19 : 15}v{r.kind === 'hold' ? 5 : 9}M{x0} 20H{x1}"
        stroke={ink}
        stroke-width="1.3"
        fill="none"
      />
    {:else if r.kind === "sum"}
      <path d="M{x0} 16v-5H{x1}v5" stroke={ink} stroke-width="1.3" fill="none" />
    {:else if r.kind === "split_here"}
      <path d="M{x0} 6V24" stroke={ink} stroke-width="1.3" stroke-dasharray="3 2.2" />
    {:else if r.kind === "part"}
      <path d="M{x0} 14v10M{x1} 14v10M{x0} 23L{x1} 16" stroke={ink} stroke-width="1.2" fill="none" />
    {:else}
      <path d="M{x0} 9v5M{x1} 9v5M{x0} 11.5H{x1}" stroke={ink} stroke-width="1.2" stroke-dasharray="2 2" fill="none" />
    {/if}
  {/each}
  {#if drawn}<rect x={drawn[0]} y="5" width={drawn[1] - drawn[0]} height="19" fill="var(--row-kaki)" stroke="var(--kaki)" />{/if}
  <path d="M1 24.5H{w - 1}" stroke="var(--mist-3)" />
  {#each run.at as v (v)}
    <path d="M{f.sx(v)} 24.5v4" stroke="var(--mist-3)" />
    <text class="tl" x={f.sx(v)} y="39" text-anchor={f.sx(v) < 5 ? "start" : f.sx(v) > 270 ? "end" : "middle"}
      >{label(v, run.decimals)}</text
    >
  {/each}
</svg>

<style>
  svg {
    margin: 5px 0 4px;
    touch-action: none;
    cursor: crosshair;
  }
</style>
