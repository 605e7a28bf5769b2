<script lang="ts">
  // The spectra at the apex, the front and the tail of a peak, each to its own largest.
  import type { PeakPurity } from "../../api/client";
  import { ticks } from "../../plot/frame";

  let { found }: { found: PeakPurity } = $props();
  let wide = $state(280);
  const tall = 140;
  const low = $derived(found.axis[0] ?? 0);
  const high = $derived(found.axis.at(-1) ?? 1);
  const x = (v: number) => 14 + ((v - low) / (high - low || 1)) * (wide - 28);
  const path = (values: number[]) => {
    const most = Math.max(...values, 1e-9);
    return values
      .map((v, k) => `${k ? "L" : "M"}${x(found.axis[k]!).toFixed(1)} ${(tall - 20 - Math.max(-0.05, v / most) * (tall - 30)).toFixed(1)}`)
      .join("");
  };
  const scale = $derived(ticks(low, high, 5));
</script>

<section aria-label="Its spectrum">
  <h2>Its spectrum <span class="r">each to its largest</span></h2>
  <div bind:clientWidth={wide}>
    <svg width={wide} height={tall} role="img" aria-label="Spectra at apex, front and tail">
      <path d={path(found.front)} class="front" />
      <path d={path(found.tail)} class="tail" />
      <path d={path(found.apex)} class="apex" />
      <path d="M6 {tall - 20}H{wide - 6}" class="axis" />
      {#each scale.at as v (v)}<text class="tl" x={x(v)} y={tall - 5} text-anchor="middle">{v}</text>{/each}
    </svg>
  </div>
  <p class="note"><b>apex</b> in ink, <span class="f">front</span> and <span class="t">tail</span> at half height; nm</p>
</section>

<style>
  svg {
    display: block;
  }
  path {
    fill: none;
  }
  .apex {
    stroke: var(--ink);
    stroke-width: 1.6;
  }
  .front {
    stroke: var(--ai);
    stroke-width: 1.2;
  }
  .tail {
    stroke: var(--kaki);
    stroke-width: 1.2;
  }
  .axis {
    stroke: var(--mist-3);
  }
  .f {
    color: var(--ai);
  }
  .t {
    color: var(--kaki-text);
  }
</style>
