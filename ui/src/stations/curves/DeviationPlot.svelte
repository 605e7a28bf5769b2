<script lang="ts">
  // The deviations of the points on the curve's own axis, singly or as means of their level, with the limit the method asks for.
  import type { Snippet } from "svelte";
  import type { Curve } from "../../api/client";
  import { fixed, significant } from "../../look/number";
  import { clearOf, frame, label, type Frame } from "../../plot/frame";
  import { deviationOf, deviationWords, type Deviation } from "./calibration";

  let {
    curve,
    f,
    width,
    height,
    limit,
    kind,
    means,
    t,
    ticks,
    decimals,
    log,
    unit,
    point,
  }: {
    curve: Curve;
    /** The frame of the curve above, whose axis this one shares. */
    f: Frame;
    width: number;
    height: number;
    limit: number;
    kind: Deviation;
    means: boolean;
    t: (v: number) => number;
    ticks: number[];
    decimals: number;
    log: boolean;
    unit: string;
    point: Snippet<[number, number, number]>;
  } = $props();

  const limited = $derived(kind !== "residual");
  const shown = $derived.by(() => {
    const list = curve.points.map((p, i) => ({ i, x: p.x, d: deviationOf(curve, i, kind), out: p.left_out, side: 0 }));
    if (!means) {
      for (const q of list) {
        const same = list.filter((o) => o.x === q.x);
        q.side = (same.indexOf(q) - (same.length - 1) / 2) * 7; // replicates stand apart, though at one place
      }
      return list;
    }
    return [...new Set(list.map((q) => q.x))].map((x) => {
      const mine = list.filter((q) => q.x === x && !q.out && q.d !== null);
      const d = mine.length ? mine.reduce((s, q) => s + q.d!, 0) / mine.length : null;
      return { i: list.findIndex((q) => q.x === x && !q.out), x, d, out: false, side: 0 };
    });
  });
  const widest = $derived(
    Math.max(limited ? limit * 1.25 : 1e-12, ...shown.map((q) => Math.min(limited ? 60 : Infinity, Math.abs(q.d ?? 0) * 1.15))),
  );
  const dev = $derived(frame(width, height, { l: 58, r: 22, t: 18, b: 8 }, [f.from, f.to], [-widest, widest]));
  const marks = $derived(limited ? [-limit, 0, limit] : [-widest / 1.15, 0, widest / 1.15]);
</script>

<svg {width} height={height + 22} role="img" aria-label={deviationWords[kind]}>
  <text class="lb2" x={dev.x1} y="11" text-anchor="end">{deviationWords[kind]}{means ? ", means" : ""}</text>
  {#if limited}
    <rect x={dev.x0} y={dev.sy(limit)} width={dev.x1 - dev.x0} height={dev.sy(-limit) - dev.sy(limit)} fill="var(--w-mist-b)" />
    <path d="M{dev.x0} {dev.sy(limit)}H{dev.x1}M{dev.x0} {dev.sy(-limit)}H{dev.x1}" stroke="var(--ochre)" stroke-dasharray="5 3" />
  {/if}
  <path d="M{dev.x0} {dev.sy(0)}H{dev.x1}" stroke="var(--mist-3)" />
  {#each marks as v (v)}<text class="tl" x={dev.x0 - 8} y={dev.sy(v) + 4} text-anchor="end"
      >{v > 0 ? "+" : ""}{limited ? fixed(v, 0) : v === 0 ? "0" : significant(v, 2)}</text
    >{/each}
  {#each shown as q (means ? q.x : q.i)}
    {#if q.d !== null && q.i >= 0 && t(q.x) >= f.from && t(q.x) <= f.to}
      {@const x = dev.sx(t(q.x)) + q.side}
      {@const y = dev.sy(Math.max(-widest, Math.min(widest, q.d)))}
      <path d="M{x} {dev.sy(0)}V{y}" stroke="var(--mist-2)" />
      {@render point(x, y, q.i)}
    {/if}
  {/each}
  <path class="axis" d="M{dev.x0} {dev.y0 + 0.5}H{dev.x1}" />
  {#each ticks as v (v)}
    {@const x = f.sx(t(v))}
    <path class="tick" d="M{x} {dev.y0 + 0.5}v5" />
    {#if clearOf(unit, dev.x1, x, log ? significant(v, 1) : label(v, decimals))}<text class="tl" {x} y={dev.y0 + 18} text-anchor="middle"
        >{log ? significant(v, 1) : label(v, decimals)}</text
      >{/if}
  {/each}
  <text class="tu" x={dev.x1} y={dev.y0 + 18} text-anchor="end">{unit}</text>
</svg>
