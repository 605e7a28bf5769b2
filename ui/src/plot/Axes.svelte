<script lang="ts">
  // Axes with outward ticks; the unit takes the place of the last time label and stands above the signal labels.
  import { clearOf, label, ticks, type Frame } from "./frame";
  let {
    f,
    unitX = "min",
    unitY = "",
    across = 10,
    up = 5,
  }: { f: Frame; unitX?: string; unitY?: string; across?: number; up?: number } = $props();
  const tx = $derived(ticks(f.from, f.to, across));
  const minor = $derived(ticks(f.from, f.to, across * 5));
  const ty = $derived(ticks(f.low, f.high, up));
</script>

<path class="axis" d="M{f.x0} {f.y0 + 0.5}H{f.x1}" />
{#each minor.at as v (v)}<path class="tick" d="M{f.sx(v)} {f.y0 + 0.5}v3" />{/each}
{#each tx.at as v (v)}
  <path class="tick" d="M{f.sx(v)} {f.y0 + 0.5}v5" />
  {#if clearOf(unitX, f.x1, f.sx(v), label(v, tx.decimals))}<text class="tl" x={f.sx(v)} y={f.y0 + 17} text-anchor="middle"
      >{label(v, tx.decimals)}</text
    >{/if}
{/each}
<text class="tu" x={f.x1} y={f.y0 + 17} text-anchor="end">{unitX}</text>
{#each ty.at as v (v)}
  <path class="tick" d="M{f.x0 - 5} {f.sy(v)}h5" />
  <text class="tl" x={f.x0 - 8} y={f.sy(v) + 3.8} text-anchor="end">{label(v, ty.decimals)}</text>
{/each}
<text class="tu" x={f.x0 - 8} y={f.y1 - 9} text-anchor="end">{unitY}</text>
