<script lang="ts">
  // The values of a group on one line: a tick each, the mean as a mark above, limits dashed. One scale serves a whole column.
  let {
    values,
    range,
    mean,
    low,
    high,
  }: { values: (number | null)[]; range: [number, number]; mean: number | null; low: number | null; high: number | null } = $props();
  const wide = 70;
  const x = (v: number) => 3 + ((v - range[0]) / (range[1] - range[0] || 1)) * (wide - 6);
  const there = $derived(values.filter((v): v is number => v !== null));
  const out = (v: number) => (low !== null && v < low) || (high !== null && v > high);
  const ticks = (list: number[]) => list.map((v) => `M${x(v).toFixed(1)} 7V14`).join("");
  const ends = $derived([low, high].filter((v): v is number => v !== null && v >= range[0] && v <= range[1]));
</script>

<svg width={wide} height="16" aria-hidden="true">
  <path d="M1 14.5H{wide - 1}" stroke="var(--mist-3)" stroke-width=".8" />
  <path d={ticks(there.filter((v) => !out(v)))} stroke="var(--ink-2)" stroke-width="1" opacity=".75" />
  <path d={ticks(there.filter(out))} stroke="var(--kaki)" stroke-width="1.3" />
  {#each ends as v (v)}<path d="M{x(v)} 3V14" stroke="var(--ochre)" stroke-width="1.2" stroke-dasharray="2 1.6" />{/each}
  {#if mean !== null}<path d="M{x(mean) - 3.4} 1H{x(mean) + 3.4}L{x(mean)} 6Z" fill="var(--ai)" />{/if}
</svg>
