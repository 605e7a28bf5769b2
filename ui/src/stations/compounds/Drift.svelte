<script lang="ts">
  // Retention of one compound across the run, in its window. Drift is shown, not hidden.
  import type { Batch, Compound, Result } from "../../api/client";
  import { count, fixed } from "../../look/number";
  import { allPeaks } from "../../state/channel";
  import { frame } from "../../plot/frame";
  import { placeOf } from "./table";

  let { batch, result, compound, index }: { batch: Batch; result: Result | undefined; compound: Compound; index: number } = $props();
  // Against the place that the compound has in each injection, which references and ladders may move.
  const places = $derived((result?.injections ?? []).map((i) => placeOf(compound, i)));
  const half = $derived(Math.max(...places.map((p) => p.half_min), 0.001));
  const found = $derived((result?.injections ?? []).map((i) => allPeaks(i).find((p) => p.compound_id === compound.id)?.apex_min ?? null));
  const off = $derived(found.map((v, i) => (v === null ? null : v - places[i]!.expected_min)));
  const f = $derived(
    frame(276, 84, { l: 34, r: 4, t: 8, b: 10 }, [0, Math.max(1, batch.injections.length - 1)], [-half * 1.1, half * 1.1]),
  );
  const there = $derived(found.filter((v): v is number => v !== null));
  const span = $derived(there.length ? Math.max(...there) - Math.min(...there) : 0);
</script>

<section aria-label="Drift">
  <h2>Drift <span class="r">over {fixed(span, 3)} min in {count(there.length, "injection")}</span></h2>
  <svg width="276" height="84" role="img" aria-label="Retention of {compound.name} in run order">
    <path d="M{f.x0} {f.sy(half)}H{f.x1}M{f.x0} {f.sy(-half)}H{f.x1}" stroke="var(--ochre)" stroke-dasharray="5 3" />
    <path d="M{f.x0} {f.sy(0)}H{f.x1}" stroke="var(--mist-3)" />
    <text class="tl" x={f.x0 - 4} y={f.sy(0) + 4} text-anchor="end">{compound.expected_min.toFixed(2)}</text>
    <text class="tl" x={f.x0 - 4} y={f.sy(half) + 4} text-anchor="end">+{half.toFixed(2)}</text>
    <text class="tl" x={f.x0 - 4} y={f.sy(-half) + 4} text-anchor="end">−{half.toFixed(2)}</text>
    {#each off as v, i (i)}
      {#if v !== null}<circle cx={f.sx(i)} cy={f.sy(v)} r={i === index ? 3 : 1.6} fill={i === index ? "var(--kaki)" : "var(--ai)"} />{/if}
    {/each}
  </svg>
</section>
