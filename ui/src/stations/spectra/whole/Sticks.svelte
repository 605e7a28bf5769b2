<script lang="ts">
  // The spectrum of a component, of masses as sticks, of wavelengths as a line.
  let { label, peaks, as, light = false }: { label: string; peaks: number[][]; as: string; light?: boolean } = $props();
  let wide = $state(280);
  const tall = 62;
  const low = $derived(Math.min(...peaks.map((p) => p[0]!)) - 2);
  const high = $derived(Math.max(...peaks.map((p) => p[0]!)) + 2);
  const x = (m: number) => ((m - low) / (high - low || 1)) * wide;
  const y = (v: number) => tall - 14 - (v / 999) * (tall - 26);
  /** The largest lines bear their m/z, as far as they do not cover each other. */
  const largest = $derived.by(() => {
    const list: number[][] = [];
    for (const p of peaks.toSorted((a, b) => b[1]! - a[1]!).slice(0, 6))
      if (list.length < 3 && list.every((o) => Math.abs(x(o[0]!) - x(p[0]!)) > 24)) list.push(p);
    return list;
  });
</script>

<div bind:clientWidth={wide}>
  <svg width={wide} height={tall} role="img" aria-label={label}>
    {#if light}<path d={peaks.map((p, k) => `${k ? "L" : "M"}${x(p[0]!).toFixed(1)} ${y(p[1]!).toFixed(1)}`).join("")} class={as} />
    {:else}<path d={peaks.map((p) => `M${x(p[0]!).toFixed(1)} ${tall - 14}V${y(p[1]!).toFixed(1)}`).join("")} class={as} />{/if}
    <path d="M0 {tall - 14}H{wide}" class="axis" />
    {#each light ? [] : largest as p (p[0])}<text class="tl" x={Math.max(8, Math.min(wide - 8, x(p[0]!)))} y={tall - 2} text-anchor="middle"
        >{p[0]}</text
      >{/each}
  </svg>
</div>

<style>
  svg {
    display: block;
  }
  path {
    fill: none;
    stroke: var(--ink);
    stroke-width: 1.5;
  }
  .second {
    stroke: var(--ai);
  }
  .third {
    stroke: var(--kaki);
  }
  .fourth {
    stroke: var(--moss);
  }
  .background {
    stroke: var(--mist-3);
  }
  .axis {
    stroke: var(--mist-3);
    stroke-width: 1;
  }
</style>
