<script lang="ts">
  // Where the quantitation limits of every way and day lie, on one axis; the largest of each way is ringed, the chosen one is a line.
  import { significant } from "../../look/number";
  import { clearOf, frame, logTicks } from "../../plot/frame";
  import { wayWords, type Way } from "./calibration";

  let {
    days,
    ways,
    chosen,
    unit,
  }: {
    days: { batch: string; limits: { way: string; loq: number | null }[] }[];
    ways: { way: string; loq: number | null }[];
    chosen: number | null;
    unit: string;
  } = $props();

  let width = $state(900);
  const rows = $derived(ways.filter((w) => w.loq !== null));
  const dots = $derived(
    rows.flatMap((w, row) =>
      days.flatMap((d) => {
        const v = d.limits.find((l) => l.way === w.way)?.loq;
        // Of days that agree the first one bears the ring.
        const first = days.findIndex((o) => o.limits.find((l) => l.way === w.way)?.loq === w.loq) === days.indexOf(d);
        return v ? [{ row, v, day: d.batch, most: v === w.loq && first }] : [];
      }),
    ),
  );
  const height = $derived(rows.length * 24 + 44);
  const low = $derived(Math.min(...dots.map((d) => d.v), chosen ?? Infinity) * 0.8);
  const high = $derived(Math.max(...dots.map((d) => d.v), chosen ?? 0) * 1.25);
  const f = $derived(frame(width, height, { l: 230, r: 30, t: 12, b: 26 }, [Math.log10(low), Math.log10(high)], [0, 1]));
  const x = (v: number) => f.sx(Math.log10(v));
  const y = (row: number) => 22 + row * 24;
</script>

{#if dots.length > 0}
  <div bind:clientWidth={width}>
    <svg {width} {height} role="img" aria-label="Quantitation limits of all ways and days">
      <path class="axis" d="M{f.x0} {f.y0 + 0.5}H{f.x1}" />
      {#each logTicks(low, high) as v (v)}
        <path class="tick" d="M{x(v)} {f.y0 + 0.5}v5" />
        {#if clearOf(unit, f.x1 + 26, x(v), significant(v, 1))}<text class="tl" x={x(v)} y={f.y0 + 18} text-anchor="middle"
            >{significant(v, 1)}</text
          >{/if}
      {/each}
      <text class="tu" x={f.x1 + 26} y={f.y0 + 18} text-anchor="end">{unit}</text>
      {#each rows as w, k (w.way)}
        <text class="lb2" x={f.x0 - 12} y={y(k) + 4} text-anchor="end">{wayWords[w.way as Way]}</text>
        <path d="M{f.x0} {y(k)}H{f.x1}" stroke="var(--mist-1)" />
      {/each}
      {#if chosen}<path d="M{x(chosen)} 8V{f.y0}" stroke="var(--kaki)" stroke-width="1.4" />
        <text class="lb2" style="fill:var(--kaki-text)" x={x(chosen) + 5} y="10">chosen</text>{/if}
      {#each dots as d (d.row + d.day)}
        <circle cx={x(d.v)} cy={y(d.row)} r="3.4" fill="var(--ai)" stroke="var(--paper)" stroke-width="1"
          ><title>{d.day}: {significant(d.v, 3)} {unit}</title></circle
        >
        {#if d.most}<circle cx={x(d.v)} cy={y(d.row)} r="6.5" fill="none" stroke="var(--ink)" stroke-width="1.1" />
          <text class="tl" x={x(d.v) + 11} y={y(d.row) + 4}>{d.day}</text>{/if}
      {/each}
    </svg>
  </div>
{/if}
